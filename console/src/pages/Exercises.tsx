import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import { get, part, send } from '../api'
import { when } from '../time'
import type { Exercise } from '../types'
import { Ask } from '../ui/Dialog'
import { Empty, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { Wide } from '../ui/Wide'

// Exercises of the service, whatever class they are open to.
export function Exercises() {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const { data, error } = useQuery({ queryKey: ['exercises'], queryFn: () => get<Exercise[]>('/exercises') })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-4 pt-8 pb-4">
        <h1 className="text-xl">Exercises</h1>
        <span className="flex gap-2">
          <Ask
            trigger={
              <button type="button" className="quiet">
                Take in a folder…
              </button>
            }
            title="An exercise’s folder"
            help="A zip archive with exercise.yaml at its top, and whatever belongs to it beside that."
            action="Take it in"
            done={async (f) => {
              const file = f.get('file') as File
              const x = await send<Exercise>(
                'PUT',
                `/exercises/${part(String(f.get('name')))}/folder`,
                'application/zip',
                file,
                f.get('revise') ? {} : { 'If-None-Match': '*' },
              )
              queries.invalidateQueries({ queryKey: ['exercises'] })
              navigate(`/exercises/${x.name}`)
            }}
          >
            <Field label="Name, as it stands in the file" name="name" required />
            <label>
              <span className="text-sm text-slate">Archive</span>
              <input name="file" type="file" accept=".zip" className="field" required />
            </label>
            <label className="flex items-center gap-2 text-sm">
              <input type="checkbox" name="revise" /> it is a new revision of an exercise that is here already
            </label>
          </Ask>
          <Link to="/exercises/new" className="plate">
            Write one
          </Link>
        </span>
      </div>
      {data.length === 0 && <Empty>There is no exercise yet. Write one, or take in the folder of one.</Empty>}
      {data.length > 0 && (
        <Wide>
          <table className="book">
            <thead>
              <tr>
                <th>Exercise</th>
                <th className="number">Revision</th>
                <th>Of</th>
                <th className="number">Marks</th>
                <th className="number">Classes</th>
              </tr>
            </thead>
            <tbody>
              {data.map((x) => (
                <tr key={x.name}>
                  <td>
                    <Link to={`/exercises/${x.name}`}>{x.title}</Link>{' '}
                    <span className="pl-2 font-mono text-sm text-slate">{x.name}</span>
                  </td>
                  <td className="number">{x.revision}</td>
                  <td className="text-sm text-slate">{when(x.created)}</td>
                  <td className="number">{+x.marks}</td>
                  <td className="number">{x.classes}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </>
  )
}
