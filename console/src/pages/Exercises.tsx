import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { get } from '../api'
import { useChanges } from '../changes'
import type { Exercise } from '../types'
import { Problem } from '../ui/Frame'

export function Exercises() {
  const { data, error, refetch } = useQuery({ queryKey: ['exercises'], queryFn: () => get<Exercise[]>('/exercises') })
  useChanges('', () => refetch())
  if (error) return <Problem error={error} />
  return (
    <>
      <h1 className="pt-8 pb-4 text-xl">Exercises</h1>
      {data?.length === 0 && (
        <p className="text-slate">
          There is no exercise yet. Put one in with <code className="font-mono text-sm">PUT /api/v1/exercises/NAME</code>, or start <code className="font-mono text-sm">hemble demo</code>.
        </p>
      )}
      {data && data.length > 0 && (
        <table className="book">
          <thead>
            <tr>
              <th>Exercise</th>
              <th className="number">Revision</th>
              <th className="number">Students</th>
              <th className="number">Submissions</th>
              <th className="number">Waiting</th>
              <th className="number">Mean of latest</th>
              <th className="number">Marks</th>
            </tr>
          </thead>
          <tbody>
            {data.map((x) => (
              <tr key={x.name}>
                <td>
                  <Link to={`/exercises/${x.name}`}>{x.title}</Link> <span className="pl-2 font-mono text-sm text-slate">{x.name}</span>
                </td>
                <td className="number">{x.revision}</td>
                <td className="number">{x.students}</td>
                <td className="number">{x.submissions}</td>
                <td className="number">{x.waiting || '–'}</td>
                <td className="number">{x.mean?.toFixed(2) ?? '–'}</td>
                <td className="number">{x.marks}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}
