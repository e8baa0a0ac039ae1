import { useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { get, part, put, remove } from '../api'
import { when } from '../time'
import { useDraft } from '../draft'
import type { Extension } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty, Field, fromInput } from '../ui/fields'
import { TermsFields, readTerms } from '../ui/Terms'
import { useHere } from './ExerciseFrame'

export function TermsPage() {
  const { at, assignment, class: here } = useHere()
  const queries = useQueryClient()
  const [told, setTold] = useState<[boolean, string]>([true, ''])
  const { form, restored, drop } = useDraft(`terms ${at}`)
  const again = () => queries.invalidateQueries({ queryKey: ['assignment', here.name, assignment.exercise] })

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const f = new FormData(event.currentTarget)
    try {
      await put(at, readTerms(f, Number(f.get('revision')), assignment))
      drop()
      await again()
      setTold([true, '✓ kept'])
    } catch (e) {
      setTold([false, `✗ ${(e as Error).message}`])
    }
  }
  const release = (released: boolean) => put(`${at}/release`, { released }).then(again)
  return (
    <>
      <section className="flex flex-wrap items-baseline justify-between gap-4 py-4">
        <p className="text-slate">
          {assignment.released
            ? `Marks were released on ${when(assignment.released)}.`
            : 'Marks are not released: hidden trials, and what waits for the release, are kept from students.'}
        </p>
        <button
          type="button"
          className={assignment.released ? 'quiet' : 'plate'}
          onClick={() => release(!assignment.released)}
        >
          {assignment.released ? 'Hide marks again' : 'Release marks'}
        </button>
      </section>
      <form
        key={JSON.stringify(assignment)}
        ref={form}
        onSubmit={submit}
        className="flex max-w-[760px] flex-col gap-4 border-t border-line pt-4"
      >
        <Choice
          label="Revision in force, for submissions to come"
          name="revision"
          value={String(assignment.revision)}
          options={Array.from({ length: assignment.newest ?? assignment.revision }, (_, i) => [
            String(i + 1),
            String(i + 1),
          ])}
        />
        <TermsFields o={assignment} />
        {restored && (
          <p role="status" className="text-sm text-amber">
            ≈ These are the terms as you had written them before; they are not kept yet.
          </p>
        )}
        <span className="flex items-center gap-4">
          <button type="submit" className="plate">
            Keep
          </button>
          <span role="status" className={told[0] ? 'text-moss' : 'text-brick'}>
            {told[1]}
          </span>
        </span>
      </form>
      <Extensions />
    </>
  )
}

function Extensions() {
  const { at } = useHere()
  const queries = useQueryClient()
  const { data } = useQuery({ queryKey: ['extensions', at], queryFn: () => get<Extension[]>(`${at}/extensions`) })
  const again = () => queries.invalidateQueries({ queryKey: ['extensions', at] })
  return (
    <section className="pt-8">
      <div className="flex items-baseline justify-between">
        <h2 className="pb-2 text-lg">Extensions</h2>
        <Ask
          trigger={
            <button type="button" className="quiet">
              Give one
            </button>
          }
          title="More time, or more attempts"
          action="Give it"
          done={async (f) => {
            await put(`${at}/extensions`, {
              kind: f.get('kind'),
              who: f.get('who'),
              due: fromInput(f.get('due')),
              closes: fromInput(f.get('closes')),
              attempts: Number(f.get('attempts')),
              reason: f.get('reason'),
            })
            again()
          }}
        >
          <Choice
            label="For"
            name="kind"
            options={[
              ['student', 'a student'],
              ['group', 'a group'],
            ]}
          />
          <Field label="Login, or name of the group" name="who" required />
          <Field label="Due" name="due" type="datetime-local" />
          <Field label="Closes" name="closes" type="datetime-local" />
          <Field label="More attempts" name="attempts" type="number" min={0} defaultValue={0} />
          <Field label="Reason" name="reason" required maxLength={500} />
        </Ask>
      </div>
      {data?.length === 0 && <Empty>Nobody has one.</Empty>}
      {!!data?.length && (
        <table className="book">
          <tbody>
            {data.map((x) => (
              <tr key={x.kind + x.who}>
                <td>
                  {x.kind} {x.who}
                </td>
                <td>{x.due ? `due ${when(x.due)}` : ''}</td>
                <td>{x.closes ? `closes ${when(x.closes)}` : ''}</td>
                <td>{x.attempts ? `${x.attempts} more attempts` : ''}</td>
                <td className="text-sm text-slate">{x.reason}</td>
                <td className="number">
                  <button
                    type="button"
                    className="quiet"
                    onClick={() => remove(`${at}/extensions/${x.kind}/${part(x.who)}`).then(again)}
                  >
                    Take back
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}
