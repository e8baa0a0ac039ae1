import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { get, post, put } from '../api'
import { when } from '../time'
import type { Proposal, Revision } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { Wide } from '../ui/Wide'
import { answers } from './ClassFrame'
import { useHere } from './ExerciseFrame'

// Proposed marks: what a new revision or a new engine would change, per student, to be taken over or dropped.
export function Proposals() {
  const { at, assignment, class: here } = useHere()
  const queries = useQueryClient()
  const all = useQuery({ queryKey: ['proposals', at], queryFn: () => get<Proposal[]>(`${at}/proposals`) })
  const revisions = useQuery({
    queryKey: ['revisions', assignment.exercise],
    queryFn: () => get<Revision[]>(`/exercises/${assignment.exercise}/revisions`),
    retry: false,
  })
  if (all.error) return <Problem error={all.error} />
  if (!all.data) return <Waiting />
  const again = () => queries.invalidateQueries({ queryKey: ['proposals', at] })
  const open = all.data.find((p) => !p.closed)
  return (
    <>
      <div className="flex items-end justify-between gap-4 py-4">
        <p className="max-w-[70ch] text-slate">
          Revision {assignment.revision} is in force
          {assignment.newest && assignment.newest > assignment.revision ? `; ${assignment.newest} is the newest` : ''}.
          Marking anew changes nothing before you take it over.
        </p>
        {answers(here) && !!assignment.newest && assignment.newest > assignment.revision && (
          <InForce revision={assignment.newest} />
        )}
        {answers(here) && !open && (
          <Ask
            trigger={
              <button type="button" className="plate">
                Mark anew
              </button>
            }
            title="Mark all submissions anew"
            help="By a revision of the exercise and the engine that runs now. Students who wait go first."
            action="Mark"
            done={async (f) => {
              await post(`${at}/proposals`, { revision: Number(f.get('revision')) })
              again()
            }}
          >
            <Choice
              label="Revision"
              name="revision"
              options={(revisions.data ?? []).map((r) => [String(r.number), `${r.number}, of ${when(r.created)}`])}
            />
          </Ask>
        )}
      </div>
      {all.data.length === 0 && (
        <Empty>
          Nothing was proposed yet. After you change an exercise, mark its submissions anew here and see whose marks
          would move, and why.
        </Empty>
      )}
      {all.data.map((p) => (
        <One key={p.id} id={p.id} again={again} />
      ))}
    </>
  )
}

// InForce makes a revision the one that work to come is marked by.
function InForce({ revision }: { revision: number }) {
  const { at, assignment, class: here } = useHere()
  const queries = useQueryClient()
  return (
    <Ask
      trigger={
        <button type="button" className="quiet">
          Put revision {revision} in force
        </button>
      }
      title={`Revision ${revision} in force`}
      help={`Work that comes from now on is marked by revision ${revision}, and students see its task. What is marked already stays as it is, by revision ${assignment.revision}, until you mark it again and apply.`}
      action="Put it in force"
      done={async () => {
        await put(`${at}/revision`, { revision })
        await queries.invalidateQueries({ queryKey: ['assignment', here.name, assignment.exercise] })
      }}
    >
      <></>
    </Ask>
  )
}

function One({ id, again }: { id: number; again: () => void }) {
  const { at, assignment, class: here } = useHere()
  const [chosen, setChosen] = useState<string[]>([])
  const [problem, setProblem] = useState('')
  const { data, refetch } = useQuery({
    queryKey: ['proposal', at, id],
    queryFn: () => get<Proposal>(`${at}/proposals/${id}`),
    refetchInterval: (q) => (q.state.data?.waiting ? 500 : false),
  })
  if (!data) return null
  const decide = (take: boolean) =>
    post(`${at}/proposals/${id}`, { take, submissions: chosen })
      .then(() => (setChosen([]), setProblem(''), refetch(), again()))
      .catch((e: Error) => setProblem(e.message))
  const moved = data.moves?.filter((m) => Number(m.old) !== Number(m.new)).length ?? 0
  const otherwise = (data.moves?.length ?? 0) - moved // the marks stay, by other verdicts
  const open = data.moves?.filter((m) => m.state === 'proposed') ?? []
  return (
    <section className="border-t-2 border-ink py-4" aria-label={`proposal ${id}`}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-6">
        <h2 className="text-base">
          Revision {data.revision}, engine {data.engine}{' '}
          <span className="text-slate">
            · by {data.by}, {when(data.created)}
          </span>
        </h2>
        <span aria-live="polite" className="text-slate">
          {data.waiting
            ? `${data.waiting} still to mark`
            : `${moved} would move, ${data.same + otherwise} stay${otherwise ? `, ${otherwise} of them by other verdicts` : ''}`}
          {data.closed && ', decided'}
        </span>
      </div>
      {data.closed && answers(here) && data.revision > assignment.revision && (
        <p className="py-2 text-amber">
          ≈ New work is still marked by revision {assignment.revision}. <InForce revision={data.revision} />
        </p>
      )}
      {!!data.moves?.length && (
        <Wide>
          <table className="book">
            <tbody>
              {data.moves.map((m) => (
                <tr key={m.submission}>
                  <td className="w-8">
                    {m.state === 'proposed' && answers(here) && (
                      <input
                        type="checkbox"
                        aria-label={`choose ${m.student}`}
                        checked={chosen.includes(m.submission)}
                        onChange={(e) =>
                          setChosen(
                            e.target.checked ? [...chosen, m.submission] : chosen.filter((c) => c !== m.submission),
                          )
                        }
                      />
                    )}
                  </td>
                  <td className="whitespace-nowrap">
                    <Link to={`/submissions/${m.submission}`}>{m.student}</Link>{' '}
                    <span className="text-sm text-slate">attempt {m.attempt}</span>
                  </td>
                  <td className="number">
                    {m.old} → <strong>{m.new}</strong>
                  </td>
                  <td className="py-1 text-sm">
                    {m.why.map((w, i) => (
                      <span key={i} className="block">
                        {w}
                      </span>
                    ))}
                  </td>
                  <td className="text-sm text-slate">{m.state === 'proposed' ? '' : m.state}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      {!data.closed && !data.waiting && answers(here) && (
        <div className="flex items-center gap-2 pt-4">
          <button type="button" className="plate" onClick={() => decide(true)}>
            Take over {chosen.length ? `${chosen.length} chosen` : open.length ? 'all' : ''}
          </button>
          <button type="button" className="quiet" onClick={() => decide(false)}>
            Drop {chosen.length ? `${chosen.length} chosen` : 'all'}
          </button>
          <span role="alert" className="text-brick">
            {problem && `✗ ${problem}`}
          </span>
        </div>
      )}
    </section>
  )
}
