import { useQuery, useQueryClient } from '@tanstack/react-query'
import { get, part, remove, send } from '../api'
import { when } from '../time'
import type { Library } from '../types'
import { Ask } from '../ui/Dialog'
import { Empty, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { answers, useClass } from '../data/class'
import { Act } from '../ui/Act'
import { Table } from '../ui/Table'

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
                Upload library
              </button>
            }
            title="Upload a library"
            help="A zip archive of its folder, with headers at the top level or in src. Students include them by name. A library with the same name is replaced."
            action="Upload"
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
        <Empty>No libraries yet. Source can include whatever comes with the compiler and the core library.</Empty>
      )}
      {data.length > 0 && (
        <Table
          label="libraries"
          rows={data}
          id={(l) => l.name}
          columns={[
            { id: 'name', head: 'Library', cell: (l) => l.name, by: (l) => l.name.toLowerCase() },
            { id: 'headers', head: 'Headers', cell: (l) => l.headers.join(' '), style: 'font-mono text-sm' },
            { id: 'created', head: 'Uploaded', cell: (l) => when(l.created), by: (l) => l.created },
            {
              id: 'actions',
              head: <span className="sr-only">Actions</span>,
              number: true,
              cell: (l) =>
                answers(here) && (
                  <Act label={`Delete ${l.name}`} act={() => remove(`${at}/${part(l.name)}`).then(again)}>
                    Delete
                  </Act>
                ),
            },
          ]}
        />
      )}
    </>
  )
}
