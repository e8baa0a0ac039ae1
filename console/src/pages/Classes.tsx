import { useQuery } from '@tanstack/react-query'
import { Link, Navigate } from 'react-router'
import { get } from '../api'
import type { Class } from '../types'
import { Problem } from '../ui/Frame'

export function Classes() {
  const { data, error } = useQuery({ queryKey: ['classes'], queryFn: () => get<Class[]>('/classes') })
  if (error) return <Problem error={error} />
  if (data?.length === 1) return <Navigate to={`/classes/${data[0].name}`} replace />
  return (
    <>
      <h1 className="pt-8 pb-4 text-xl">Classes</h1>
      {data?.length === 0 && <p className="text-slate">You are in no class yet.</p>}
      {data && data.length > 0 && (
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
                  <Link to={`/classes/${c.name}`}>{c.title}</Link> <span className="pl-2 font-mono text-sm text-slate">{c.name}</span>
                </td>
                <td>{c.role}</td>
                <td className="number">{c.students ?? '–'}</td>
                <td className="number">{c.exercises ?? '–'}</td>
                <td className="number">{c.waiting || '–'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}
