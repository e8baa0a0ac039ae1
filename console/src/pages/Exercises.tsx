import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import { get, part, send } from '../api'
import { when } from '../time'
import type { Exercise } from '../types'
import { Ask } from '../ui/Dialog'
import { Empty, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { Table } from '../ui/Table'

// Exercises of the service, whatever class they are assigned to.
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
                Import folder…
              </button>
            }
            title="Import an exercise folder"
            help="A zip archive with exercise.yaml at its top level and any other files of the exercise."
            action="Import"
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
            <Field label="Name, as in the file" name="name" required />
            <label>
              <span className="text-sm text-slate">Archive</span>
              <input name="file" type="file" accept=".zip" className="field" required />
            </label>
            <label className="flex items-center gap-2 text-sm">
              <input type="checkbox" name="revise" /> this is a new revision of an existing exercise
            </label>
          </Ask>
          <Link to="/exercises/new" className="quiet no-underline">
            Write one
          </Link>
          <Link to="/exercises/new/template" className="plate">
            New exercise
          </Link>
        </span>
      </div>
      {data.length === 0 && <Empty>No exercises yet. Write one, or import a folder.</Empty>}
      {data.length > 0 && (
        <Table
          label="exercises"
          rows={data}
          id={(x) => x.name}
          columns={[
            {
              id: 'title',
              head: 'Exercise',
              by: (x) => x.title.toLowerCase(),
              cell: (x) => (
                <span>
                  <Link to={`/exercises/${x.name}`}>{x.title}</Link>{' '}
                  <span className="pl-2 font-mono text-sm text-slate">{x.name}</span>
                </span>
              ),
            },
            {
              id: 'bench',
              head: 'Work it',
              cell: (x) => <Link to={`/exercises/${x.name}/bench`}>live bench</Link>,
            },
            { id: 'revision', head: 'Revision', number: true, cell: (x) => x.revision, by: (x) => x.revision },
            { id: 'created', head: 'Saved', cell: (x) => when(x.created), by: (x) => x.created },
            { id: 'marks', head: 'Marks', number: true, cell: (x) => +x.marks, by: (x) => +x.marks },
            { id: 'classes', head: 'Classes', number: true, cell: (x) => x.classes, by: (x) => x.classes },
          ]}
        />
      )}
    </>
  )
}
