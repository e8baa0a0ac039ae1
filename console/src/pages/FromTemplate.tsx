import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { get, part, post } from '../api'
import type { Exercise, Template } from '../types'
import { Area, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'

// FromTemplate begins an exercise with one that is complete, under a name of one's own.
export function FromTemplate() {
  const { data, error } = useQuery({ queryKey: ['templates'], queryFn: () => get<Template[]>('/templates') })
  const [chosen, setChosen] = useState<Template>()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const making = useMutation({
    mutationFn: async (f: FormData) => {
      const x = await post<Exercise>(`/exercises/${part(String(f.get('name')).trim())}/template`, {
        template: chosen!.name,
        title: f.get('title'),
        brief: f.get('brief'),
      })
      queries.invalidateQueries({ queryKey: ['exercises'] })
      navigate(`/exercises/${x.name}/bench`, { state: { begin: true } })
    },
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <h1 className="pt-8 text-xl">New exercise</h1>
      <p className="max-w-[70ch] pb-4 text-slate">
        Each of these has a bench, a reference and a trial. Choose the one that is nearest to yours, give it a name, and
        show on its live bench what is to happen. Or <Link to="/exercises/new">write the text yourself</Link>.
      </p>
      <fieldset>
        <legend className="sr-only">Template</legend>
        <ul className="grid gap-x-8 border-t border-line sm:grid-cols-2">
          {data.map((t) => (
            <li key={t.name} className="border-b border-line">
              <label className="flex cursor-pointer gap-3 py-2 has-checked:text-bottle">
                <input
                  type="radio"
                  name="template"
                  value={t.name}
                  className="mt-1.5 self-start accent-bottle"
                  onChange={() => setChosen(t)}
                />
                <span>
                  <span className="block">{t.title}</span>
                  <span className="block text-sm text-slate">{t.brief}</span>
                </span>
              </label>
            </li>
          ))}
        </ul>
      </fieldset>
      {chosen && (
        <form
          key={chosen.name}
          className="flex max-w-[70ch] flex-col gap-3 pt-4"
          onSubmit={(e) => {
            e.preventDefault()
            making.mutate(new FormData(e.currentTarget))
          }}
        >
          <Field label="Title" name="title" defaultValue={chosen.title} required maxLength={200} />
          <Field
            label="Short name"
            help="lower-case letters, digits and hyphens; for addresses and commands"
            name="name"
            defaultValue={chosen.name}
            pattern="[a-z][a-z0-9]*(-[a-z0-9]+)*"
            required
          />
          <Area label="Brief: what students are to build" name="brief" value={chosen.brief} rows={5} required />
          <p role="alert" className="min-h-6 text-brick">
            {making.error && `✗ ${making.error.message}`}
          </p>
          <span>
            <button type="submit" className="plate" disabled={making.isPending}>
              {making.isPending ? 'Making it…' : 'Make the exercise'}
            </button>
          </span>
        </form>
      )}
    </>
  )
}
