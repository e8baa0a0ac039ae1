import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { get, post, put } from '../api'
import { when } from '../time'
import type { Proposal, Revision } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { Act } from '../ui/Act'
import { Table } from '../ui/Table'
import { answers } from '../data/class'
import { useHere } from '../data/assignment'

// Proposed marks: what a new revision or a new engine would change, per student, to be applied or discarded.
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
          Revision {assignment.revision} is current
          {assignment.newest && assignment.newest > assignment.revision ? `; ${assignment.newest} is the newest` : ''}.
          Marking again changes nothing until you apply the result.
        </p>
        {answers(here) && !!assignment.newest && assignment.newest > assignment.revision && (
          <InForce revision={assignment.newest} />
        )}
        {answers(here) && !open && (
          <Ask
            trigger={
              <button type="button" className="plate">
                Mark again
              </button>
            }
            title="Mark all submissions again"
            help="With the chosen revision and the installed engine. New submissions go first."
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
          No proposed marks. After you change an exercise, mark its submissions again here to see whose marks would
          change, and why.
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
          Make revision {revision} current
        </button>
      }
      title={`Make revision ${revision} current`}
      help={`New submissions are marked with revision ${revision}, and students see its brief. Existing results stay with revision ${assignment.revision} until you mark again and apply.`}
      action="Make current"
      done={async () => {
        await put(`${at}/revision`, { revision })
        await queries.invalidateQueries({ queryKey: ['assignment', here.name, assignment.exercise] })
      }}
    />
  )
}

function One({ id, again }: { id: number; again: () => void }) {
  const { at, assignment, class: here } = useHere()
  const [chosen, setChosen] = useState<string[]>([])
  const { data, refetch } = useQuery({
    queryKey: ['proposal', at, id],
    queryFn: () => get<Proposal>(`${at}/proposals/${id}`),
    refetchInterval: (q) => (q.state.data?.waiting ? 500 : false),
  })
  if (!data) return null
  const decide = (apply: boolean) =>
    post(`${at}/proposals/${id}`, { apply, submissions: chosen }).then(() => {
      setChosen([])
      refetch()
      again()
    })
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
            ? `${data.waiting} to be marked`
            : `${moved} would change, ${data.same + otherwise} stay the same${otherwise ? `, ${otherwise} of them with other verdicts` : ''}`}
          {data.closed && ', decided'}
        </span>
      </div>
      {data.closed && answers(here) && data.revision > assignment.revision && (
        <p className="py-2 text-amber">
          ≈ New submissions are still marked with revision {assignment.revision}. <InForce revision={data.revision} />
        </p>
      )}
      {!!data.moves?.length && (
        <Table
          label="marks that would change"
          rows={data.moves}
          id={(m) => m.submission}
          columns={[
            {
              id: 'choose',
              head: <span className="sr-only">Choose</span>,
              style: 'w-8',
              cell: (m) =>
                m.state === 'proposed' &&
                answers(here) && (
                  <input
                    type="checkbox"
                    aria-label={`choose ${m.student}`}
                    checked={chosen.includes(m.submission)}
                    onChange={(e) =>
                      setChosen(e.target.checked ? [...chosen, m.submission] : chosen.filter((c) => c !== m.submission))
                    }
                  />
                ),
            },
            {
              id: 'student',
              head: 'Student',
              by: (m) => m.student,
              style: 'whitespace-nowrap',
              cell: (m) => (
                <span>
                  <Link to={`/submissions/${m.submission}`}>{m.student}</Link>{' '}
                  <span className="text-sm text-slate">attempt {m.attempt}</span>
                </span>
              ),
            },
            {
              id: 'marks',
              head: 'Marks',
              number: true,
              by: (m) => Number(m.new) - Number(m.old),
              cell: (m) => (
                <span>
                  {m.old} → <strong>{m.new}</strong>
                </span>
              ),
            },
            {
              id: 'why',
              head: 'Why',
              style: 'py-1 text-sm',
              cell: (m) => (
                <span>
                  {m.why.map((w, i) => (
                    <span key={i} className="block">
                      {w}
                    </span>
                  ))}
                </span>
              ),
            },
            {
              id: 'state',
              head: 'State',
              cell: (m) => (m.state === 'proposed' ? '' : m.state),
              by: (m) => m.state,
              style: 'text-sm text-slate',
            },
          ]}
        />
      )}
      {!data.closed && !data.waiting && answers(here) && (
        <div className="flex items-center gap-2 pt-4">
          <Act plate act={() => decide(true)}>
            Apply {chosen.length ? `${chosen.length} chosen` : open.length ? 'all' : ''}
          </Act>
          <Act act={() => decide(false)}>Discard {chosen.length ? `${chosen.length} chosen` : 'all'}</Act>
        </div>
      )}
    </section>
  )
}
