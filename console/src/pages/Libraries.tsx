import { useQuery, useQueryClient } from '@tanstack/react-query'
import { get, part, remove, send } from '../api'
import { when } from '../time'
import type { Library } from '../types'
import { Ask } from '../ui/Dialog'
import { Empty, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { answers, useClass } from './ClassFrame'
import { Wide } from '../ui/Wide'

// Libraries are what the class's source may include.
export function Libraries() {
  const here = useClass()
  const queries = useQueryClient()
  const at = `/classes/${part(here.name)}/libraries`
  const { data, error } = useQuery({ queryKey: ['libraries', here.name], queryFn: () => get<Library[]>(at) })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const again = () => queries.invalidateQueries({ queryKey: ['libraries', here.name] })
  return (
    <>
      <div className="flex items-end justify-between pt-6 pb-4">
        <h1 className="text-xl">Libraries</h1>
        {answers(here) && (
          <Ask
            trigger={
              <button type="button" className="plate">
                Register one
              </button>
            }
            title="A library for this class’s source"
            help="A zip archive of its folder, with headers at the top or under src. Students include them by name; one of the same name is replaced."
            action="Register"
            done={async (f) => {
              await send('PUT', `${at}/${part(String(f.get('name')))}`, 'application/zip', f.get('file') as File)
              await again()
            }}
          >
            <Field label="Name" name="name" pattern="[A-Za-z0-9_\-]+" required maxLength={64} />
            <label>
              <span className="text-sm text-slate">Archive</span>
              <input name="file" type="file" accept=".zip" className="field" required />
            </label>
          </Ask>
        )}
      </div>
      {data.length === 0 && (
        <Empty>None are registered: source may include what comes with the compiler and the core library.</Empty>
      )}
      {data.length > 0 && (
        <Wide>
          <table className="book">
            <thead>
              <tr>
                <th>Library</th>
                <th>Headers</th>
                <th>Registered</th>
                <th>
                  <span className="sr-only">Action</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {data.map((l) => (
                <tr key={l.name}>
                  <td>{l.name}</td>
                  <td className="font-mono text-sm">{l.headers.join(' ')}</td>
                  <td className="text-sm text-slate">{when(l.created)}</td>
                  <td className="number">
                    {answers(here) && (
                      <button
                        type="button"
                        className="quiet"
                        aria-label={`Forget ${l.name}`}
                        onClick={() => remove(`${at}/${part(l.name)}`).then(again)}
                      >
                        Forget
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </>
  )
}
