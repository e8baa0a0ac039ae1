import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, Navigate, useNavigate } from 'react-router'
import { get, part, post } from '../api'
import type { Class } from '../types'
import { Ask } from '../ui/Dialog'
import { Empty, Field } from '../ui/fields'
import { Problem, Waiting, teaches, useSession } from '../ui/Frame'
import { Wide } from '../ui/Wide'

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
            title="A new class"
            action="Make it"
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
              help="lower-case letters, digits and hyphens; it stands in addresses"
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
            ? 'Make a class, then bring its students in by a roster or a join code.'
            : 'You are in no class yet. Your instructor has a code or a link for you.'}
        </Empty>
      )}
      {data.length > 0 && (
        <Wide>
          <table className="book">
            <thead>
              <tr>
                <th>Class</th>
                <th>You are</th>
                <th className="number">Students</th>
                <th className="number">Exercises</th>
                <th className="number">Waiting</th>
              </tr>
            </thead>
            <tbody>
              {data.map((c) => (
                <tr key={c.name}>
                  <td>
                    <Link to={`/classes/${c.name}`}>{c.title}</Link>{' '}
                    <span className="pl-2 font-mono text-sm text-slate">{c.name}</span>
                    {c.archived && <span className="pl-2 text-sm text-slate">archived</span>}
                  </td>
                  <td>{c.role}</td>
                  <td className="number">{c.students ?? '–'}</td>
                  <td className="number">{c.exercises ?? '–'}</td>
                  <td className="number">{c.waiting || '–'}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </>
  )
}
