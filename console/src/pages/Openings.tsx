import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'
import { get, part } from '../api'
import { useChanges } from '../changes'
import { when } from '../time'
import type { Opening } from '../types'
import { Problem } from '../ui/Frame'

// Openings are the exercises that are open to a class.
export function Openings() {
  const { class: name = '' } = useParams()
  const { data, error, refetch } = useQuery({ queryKey: ['openings', name], queryFn: () => get<Opening[]>(`/classes/${part(name)}/exercises`) })
  useChanges(name, () => refetch())
  if (error) return <Problem error={error} />
  if (!data) return null
  const student = data.some((o) => o.mine)
  return (
    <>
      <h1 className="pt-8 pb-4 text-xl">Exercises</h1>
      {data.length === 0 && <p className="text-slate">Nothing is open to this class yet.</p>}
      {data.length > 0 && (
        <table className="book">
          <thead>
            <tr>
              <th>Exercise</th>
              <th>Due</th>
              {!student && <th className="number">Students</th>}
              <th className="number">Submissions</th>
              <th className="number">Waiting</th>
              {!student && <th className="number">Mean</th>}
              <th className="number">Marks</th>
            </tr>
          </thead>
          <tbody>
            {data.map((o) => (
              <tr key={o.exercise}>
                <td>
                  <Link to={`/classes/${name}/exercises/${o.exercise}`}>{o.title}</Link>
                </td>
                <td>{when(o.due)}</td>
                {!student && <td className="number">{o.students}</td>}
                <td className="number">{o.submissions}</td>
                <td className="number">{o.waiting || '–'}</td>
                {!student && <td className="number">{o.mean?.toFixed(2) ?? '–'}</td>}
                <td className="number">{+o.marks}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  )
}
