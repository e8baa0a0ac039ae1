import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent } from 'react'
import { get, part, put, remove } from '../api'
import { when } from '../time'
import { useDraft } from '../draft'
import type { Extension } from '../types'
import { Act } from '../ui/Act'
import { Ask } from '../ui/Dialog'
import { Choice, Empty, Field, fromInput } from '../ui/fields'
import { PolicyFields, readPolicy } from '../ui/Policy'
import { useHere } from '../data/assignment'
import { Table } from '../ui/Table'

export function PolicyPage() {
  const { at, assignment, class: here } = useHere()
  const queries = useQueryClient()
  const { form, restored, drop } = useDraft(`policy ${at}`)
  const again = () => queries.invalidateQueries({ queryKey: ['assignment', here.name, assignment.exercise] })
  const saving = useMutation({
    mutationFn: (f: FormData) => put(at, readPolicy(f, Number(f.get('revision')), assignment)),
    onSuccess: () => (drop(), again()),
  })
  function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    saving.mutate(new FormData(event.currentTarget))
  }
  return (
    <>
      <section className="flex flex-wrap items-baseline justify-between gap-4 py-4">
        <p className="text-slate">
          {assignment.released
            ? `Marks were released on ${when(assignment.released)}.`
            : 'Marks are not released. Students do not see hidden trials or anything that is shown on release.'}
        </p>
        <Act
          plate={!assignment.released}
          act={() => put(`${at}/release`, { released: !assignment.released }).then(again)}
          why={assignment.released || assignment.submissions ? '' : 'nothing has been submitted yet'}
        >
          {assignment.released ? 'Hide marks' : 'Release marks'}
        </Act>
      </section>
      <form
        key={JSON.stringify(assignment)}
        ref={form}
        onSubmit={submit}
        className="flex max-w-[760px] flex-col gap-4 border-t border-line pt-4"
      >
        <Choice
          label="Current revision, used for new submissions"
          name="revision"
          value={String(assignment.revision)}
          options={Array.from({ length: assignment.newest ?? assignment.revision }, (_, i) => [
            String(i + 1),
            String(i + 1),
          ])}
        />
        <PolicyFields o={assignment} />
        {restored && (
          <p role="status" className="text-sm text-amber">
            ≈ This is your unsaved draft.
          </p>
        )}
        <span className="flex items-center gap-4">
          <button type="submit" className="plate">
            Save
          </button>
          {saving.isPending && <span role="status">Saving…</span>}
          {saving.isSuccess && (
            <span role="status" className="text-moss">
              ✓ saved
            </span>
          )}
          {saving.error && (
            <span role="alert" className="text-brick">
              ✗ {saving.error.message}
            </span>
          )}
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
              Grant extension
            </button>
          }
          title="Grant an extension"
          action="Grant"
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
              ['student', 'student'],
              ['group', 'group'],
            ]}
          />
          <Field label="Login or group name" name="who" required />
          <Field label="Due" name="due" type="datetime-local" />
          <Field label="Closes" name="closes" type="datetime-local" />
          <Field label="Extra attempts" name="attempts" type="number" min={0} defaultValue={0} />
          <Field label="Reason" name="reason" required maxLength={500} />
        </Ask>
      </div>
      {data?.length === 0 && <Empty>No extensions.</Empty>}
      {!!data?.length && (
        <Table
          label="extensions"
          rows={data}
          id={(x) => x.kind + x.who}
          columns={[
            { id: 'who', head: 'For', cell: (x) => `${x.kind} ${x.who}`, by: (x) => x.who },
            { id: 'due', head: 'Due', cell: (x) => (x.due ? when(x.due) : '–'), by: (x) => x.due },
            { id: 'closes', head: 'Closes', cell: (x) => (x.closes ? when(x.closes) : '–'), by: (x) => x.closes },
            {
              id: 'attempts',
              head: 'Extra attempts',
              number: true,
              cell: (x) => x.attempts || '–',
              by: (x) => x.attempts,
            },
            { id: 'reason', head: 'Reason', cell: (x) => x.reason, style: 'text-sm text-slate' },
            {
              id: 'actions',
              head: <span className="sr-only">Actions</span>,
              number: true,
              cell: (x) => (
                <Act
                  label={`Withdraw the extension of ${x.who}`}
                  act={() => remove(`${at}/extensions/${x.kind}/${part(x.who)}`).then(again)}
                >
                  Withdraw
                </Act>
              ),
            },
          ]}
        />
      )}
    </section>
  )
}
