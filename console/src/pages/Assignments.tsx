import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { get, part, put } from '../api'
import { useChanges } from '../changes'
import { local, when } from '../time'
import type { Exercise, Assignment } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { TermsFields, readTerms } from '../ui/Terms'
import { answers, marks, useClass } from './ClassFrame'
import { states } from '../ui/marks'
import { Wide } from '../ui/Wide'

// Assignments are the exercises that are open to a class.
export function Assignments() {
  const here = useClass()
  const { data, error, refetch } = useQuery({
    queryKey: ['assignments', here.name],
    queryFn: () => get<Assignment[]>(`/classes/${part(here.name)}/assignments`),
  })
  useChanges(here.name, () => refetch())
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const staff = marks(here)
  return (
    <>
      <div className="flex items-end justify-between pt-6 pb-4">
        <h1 className="text-xl">Exercises</h1>
        {answers(here) && <OpenOne open={data.map((o) => o.exercise)} />}
      </div>
      {data.length === 0 && (
        <Empty>
          {answers(here)
            ? 'Nothing is open to this class yet. Put an exercise in under “Exercises”, then open it here.'
            : 'Nothing is open to this class yet.'}
        </Empty>
      )}
      {data.length > 0 && (
        <Wide>
          <table className="book">
            <thead>
              <tr>
                <th>Exercise</th>
                <th>Due</th>
                {staff && <th className="number">Students</th>}
                <th className="number">{staff ? 'Submissions' : 'Attempts'}</th>
                <th className="number">Waiting</th>
                {staff && <th className="number">Mean</th>}
                <th className="number">{staff ? 'Of' : 'Your marks'}</th>
                <th>{staff ? 'Released' : 'State'}</th>
              </tr>
            </thead>
            <tbody>
              {data.map((o) => (
                <tr key={o.exercise}>
                  <td>
                    <Link to={`/classes/${here.name}/assignments/${o.exercise}`}>{o.title}</Link>
                  </td>
                  <td className="whitespace-nowrap">{when(o.due)}</td>
                  {staff && <td className="number">{o.students}</td>}
                  <td className="number">{o.submissions}</td>
                  <td className="number">{o.waiting || '–'}</td>
                  {staff && <td className="number">{o.mean?.toFixed(2) ?? '–'}</td>}
                  <td className="number whitespace-nowrap">
                    {staff
                      ? +o.marks
                      : `${o.standing?.marks ? +o.standing.marks : '–'} of ${+(o.standing?.of || o.marks)}`}
                  </td>
                  <td className="text-sm text-slate">{staff ? (o.released ? when(o.released) : 'no') : standing(o)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </>
  )
}

// standing tells a student where they are with an exercise: what came of the last attempt, and what is still open to them.
function standing({ standing: m }: Assignment) {
  if (!m) return ''
  const came = m.state ? (states[m.state] ?? m.state) : 'nothing handed in'
  const left = m.why
    ? local(m.why)
    : m.left !== undefined
      ? `${m.left} ${m.left === 1 ? 'attempt' : 'attempts'} left`
      : ''
  return left ? `${came}; ${left}` : came
}

function OpenOne({ open }: { open: string[] }) {
  const here = useClass()
  const [search, setSearch] = useSearchParams()
  const wanted = search.get('open') ?? ''
  const queries = useQueryClient()
  const all = useQuery({ queryKey: ['exercises'], queryFn: () => get<Exercise[]>('/exercises') })
  const left = all.data?.filter((x) => !open.includes(x.name)) ?? []
  return (
    <Ask
      trigger={
        <button type="button" className="plate" disabled={!left.length}>
          Open an exercise
        </button>
      }
      title="Open an exercise to this class"
      help="Its newest revision; students see it from the assignment time on."
      action="Open it"
      wide
      open={!!wanted && left.some((x) => x.name === wanted)}
      closed={() => setSearch({}, { replace: true })}
      done={async (f) => {
        await put(`/classes/${part(here.name)}/assignments/${part(String(f.get('exercise')))}`, readTerms(f))
        await queries.invalidateQueries({ queryKey: ['assignments', here.name] })
      }}
    >
      <Choice
        label="Exercise"
        name="exercise"
        value={wanted || undefined}
        options={left.map((x) => [x.name, x.title])}
      />
      <TermsFields />
    </Ask>
  )
}
