import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { get, part, put } from '../api'
import { useChanges } from '../changes'
import { local, when } from '../time'
import type { Exercise, Assignment } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { PolicyFields, readPolicy } from '../ui/Policy'
import { answers, marks, useClass } from '../data/class'
import { states } from '../ui/marks'
import { type Column, Table } from '../ui/Table'

// Assignments are the exercises that a class has to do.
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
        <h1 className="text-xl">Assignments</h1>
        {answers(here) && <Assign assigned={data.map((o) => o.exercise)} />}
      </div>
      {data.length === 0 && (
        <Empty>
          {answers(here)
            ? 'Nothing is assigned to this class yet. Write or import an exercise under “Exercises”, then assign it here.'
            : 'Nothing is assigned to this class yet.'}
        </Empty>
      )}
      {data.length > 0 && (
        <Table
          label="assignments"
          rows={data}
          id={(o) => o.exercise}
          columns={[
            {
              id: 'title',
              head: 'Exercise',
              by: (o) => o.title.toLowerCase(),
              cell: (o) => <Link to={`/classes/${here.name}/assignments/${o.exercise}`}>{o.title}</Link>,
            },
            { id: 'due', head: 'Due', cell: (o) => when(o.due), by: (o) => o.due, style: 'whitespace-nowrap' },
            ...(staff ? forStaff : forStudents),
          ]}
        />
      )}
    </>
  )
}

const forStaff: Column<Assignment>[] = [
  { id: 'students', head: 'Students', number: true, cell: (o) => o.students ?? 0, by: (o) => o.students ?? 0 },
  { id: 'submissions', head: 'Submissions', number: true, cell: (o) => o.submissions, by: (o) => o.submissions },
  { id: 'waiting', head: 'Waiting', number: true, cell: (o) => o.waiting || '–', by: (o) => o.waiting },
  { id: 'mean', head: 'Mean', number: true, cell: (o) => o.mean?.toFixed(2) ?? '–', by: (o) => o.mean },
  { id: 'marks', head: 'Marks', number: true, cell: (o) => +o.marks, by: (o) => +o.marks },
  {
    id: 'released',
    head: 'Released',
    cell: (o) => (o.released ? when(o.released) : 'no'),
    by: (o) => o.released,
    style: 'text-sm text-slate',
  },
]

const forStudents: Column<Assignment>[] = [
  { id: 'attempts', head: 'Attempts', number: true, cell: (o) => o.submissions, by: (o) => o.submissions },
  {
    id: 'marks',
    head: 'Your marks',
    number: true,
    cell: (o) => `${o.standing?.marks ? +o.standing.marks : '–'} of ${+(o.standing?.of || o.marks)}`,
    by: (o) => +(o.standing?.marks ?? -1),
  },
  { id: 'state', head: 'State', cell: standing, style: 'text-sm text-slate' },
]

// standing tells a student where they are with an exercise: what came of the last attempt, and what is still open to them.
function standing({ standing: m }: Assignment) {
  if (!m) return ''
  const came = m.state ? (states[m.state] ?? m.state) : 'nothing submitted'
  const left = m.why
    ? local(m.why)
    : m.left !== undefined
      ? `${m.left} ${m.left === 1 ? 'attempt' : 'attempts'} left`
      : ''
  return left ? `${came}; ${left}` : came
}

function Assign({ assigned }: { assigned: string[] }) {
  const here = useClass()
  const [search, setSearch] = useSearchParams()
  const wanted = search.get('assign') ?? ''
  const queries = useQueryClient()
  const all = useQuery({ queryKey: ['exercises'], queryFn: () => get<Exercise[]>('/exercises') })
  const left = all.data?.filter((x) => !assigned.includes(x.name)) ?? []
  return (
    <Ask
      trigger={
        <button
          type="button"
          className="plate"
          disabled={!left.length}
          title={left.length ? undefined : 'every exercise is assigned already'}
        >
          Assign exercise
        </button>
      }
      title="Assign an exercise to this class"
      help="The newest revision. Students see it from the opening time."
      action="Assign"
      wide
      open={!!wanted && left.some((x) => x.name === wanted)}
      closed={() => setSearch({}, { replace: true })}
      done={async (f) => {
        await put(`/classes/${part(here.name)}/assignments/${part(String(f.get('exercise')))}`, readPolicy(f))
        await queries.invalidateQueries({ queryKey: ['assignments', here.name] })
      }}
    >
      <Choice
        label="Exercise"
        name="exercise"
        value={wanted || undefined}
        options={left.map((x) => [x.name, x.title])}
      />
      <PolicyFields />
    </Ask>
  )
}
