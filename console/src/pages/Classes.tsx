import { useQueries, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, Navigate, useNavigate } from 'react-router'
import { get, part, post } from '../api'
import { answers, marks } from '../data/class'
import { when } from '../time'
import type { Assignment, Class } from '../types'
import { Ask } from '../ui/Dialog'
import { Empty, Field } from '../ui/fields'
import { Problem, Waiting, teaches, useSession } from '../ui/Frame'
import { Table } from '../ui/Table'

const useClasses = () => useQuery({ queryKey: ['classes'], queryFn: () => get<Class[]>('/classes') })

// Home is the class of somebody who has but one.
export function Home() {
  const { data, error } = useClasses()
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return <Navigate to={data.length === 1 ? `/classes/${data[0].name}` : '/classes'} replace />
}

export function Classes() {
  const session = useSession()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const { data, error } = useClasses()
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <div className="flex items-end justify-between pt-8 pb-4">
        <h1 className="text-xl">Classes</h1>
        {teaches(session.data) && (
          <Ask
            trigger={
              <button type="button" className="plate">
                New class
              </button>
            }
            title="New class"
            action="Create"
            done={async (f) => {
              const name = String(f.get('name'))
              await post(`/classes/${part(name)}`, { title: f.get('title'), archived: false })
              queries.invalidateQueries({ queryKey: ['classes'] })
              queries.invalidateQueries({ queryKey: ['session'] }) // it says of which classes one is what
              navigate(`/classes/${name}/members`)
            }}
          >
            <Field
              label="Name"
              help="lower-case letters, digits and hyphens; used in addresses"
              name="name"
              pattern="[a-z0-9][a-z0-9\-]*"
              required
              maxLength={64}
            />
            <Field label="Title" name="title" required maxLength={120} />
          </Ask>
        )}
      </div>
      {data.length === 0 && (
        <Empty>
          {teaches(session.data)
            ? 'Create a class, then add its students by roster or join code.'
            : 'You are not in a class yet. Ask your instructor for a join code or a link.'}
        </Empty>
      )}
      <Attention classes={data.filter((c) => marks(c) && !c.archived)} />
      {data.length > 0 && (
        <Table
          label="classes"
          rows={data}
          id={(c) => c.name}
          columns={[
            {
              id: 'title',
              head: 'Class',
              by: (c) => c.title.toLowerCase(),
              cell: (c) => (
                <span>
                  <Link to={`/classes/${c.name}`}>{c.title}</Link>{' '}
                  <span className="pl-2 font-mono text-sm text-slate">{c.name}</span>
                  {c.archived && <span className="pl-2 text-sm text-slate">archived</span>}
                </span>
              ),
            },
            { id: 'role', head: 'Your role', cell: (c) => c.role, by: (c) => c.role },
            { id: 'students', head: 'Students', number: true, cell: (c) => c.students ?? '–', by: (c) => c.students },
            {
              id: 'exercises',
              head: 'Assignments',
              number: true,
              cell: (c) => c.exercises ?? '–',
              by: (c) => c.exercises,
            },
            { id: 'waiting', head: 'Waiting', number: true, cell: (c) => c.waiting || '–', by: (c) => c.waiting },
          ]}
        />
      )}
    </>
  )
}

// Attention is what waits for a person, over all classes that somebody marks: what could not be marked, what nobody could
// match to a student, marks that are due to be released, work that is still in the queue.
function Attention({ classes }: { classes: Class[] }) {
  const lists = useQueries({
    queries: classes.map((c) => ({
      queryKey: ['assignments', c.name],
      queryFn: () => get<Assignment[]>(`/classes/${part(c.name)}/assignments`),
    })),
  })
  if (!classes.length || lists.some((l) => l.isPending)) return null
  const rows = classes.flatMap((c, i) => (lists[i].data ?? []).flatMap((a) => needs(c, a)))
  const broken = lists.find((l) => l.error)?.error
  return (
    <section aria-labelledby="attention" className="pb-8">
      <h2 id="attention" className="pb-2 text-lg">
        Needs your attention
      </h2>
      {broken && <p className="text-brick">✗ {broken.message}</p>}
      {!rows.length && !broken && <p className="text-slate">Nothing right now.</p>}
      <ul>
        {rows.map((r) => (
          <li key={r.to + r.text} className="flex flex-wrap gap-x-3 border-t border-line py-1">
            <span className={r.urgent ? 'text-brick' : 'text-amber'}>{r.urgent ? '✗' : '≈'}</span>
            <Link to={r.to}>{r.text}</Link>
            <span className="text-slate">
              {r.assignment} · {r.class}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

interface Need {
  to: string
  text: string
  class: string
  assignment: string
  urgent?: boolean
}

function needs(c: Class, a: Assignment): Need[] {
  const page = `/classes/${c.name}/assignments/${a.exercise}`
  const of = { class: c.title, assignment: a.title }
  const count = (n: number, one: string, many: string) => `${n} ${n === 1 ? one : many}`
  const out: Need[] = []
  if (a.failed)
    out.push({
      ...of,
      urgent: true,
      to: `${page}?show=quarantined`,
      text: `${count(a.failed, 'submission', 'submissions')} could not be marked`,
    })
  if (a.doubtful) out.push({ ...of, to: page, text: `${count(a.doubtful, 'file', 'files')} to match to a student` })
  if (answers(c) && !a.released && a.due && new Date(a.due) < new Date() && a.submissions && !a.waiting)
    out.push({ ...of, to: `${page}/policy`, text: `marks to release: due ${when(a.due)}` })
  if (a.waiting)
    out.push({
      ...of,
      to: `${page}?show=waiting`,
      text: `${count(a.waiting, 'submission', 'submissions')} in the queue`,
    })
  return out
}
