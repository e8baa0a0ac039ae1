import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { get, post, put, remove } from '../api'
import { when } from '../time'
import type { Access } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty, Field, NewPassword } from '../ui/fields'
import { forget } from '../ui/Frame'
import { Act } from '../ui/Act'
import { Table } from '../ui/Table'

// One's own account: password, where one is signed in, personal tokens.
export function Account() {
  return (
    <>
      <h1 className="pt-8 pb-4 text-xl">Your account</h1>
      <Password />
      <Sessions />
      <Tokens />
    </>
  )
}

function Password() {
  const change = useMutation({
    mutationFn: (f: FormData) => put('/account/password', { old: f.get('old'), new: f.get('new') }),
  })
  function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const form = event.currentTarget
    change.mutate(new FormData(form), { onSuccess: () => form.reset() })
  }
  return (
    <section className="max-w-[360px] pb-8">
      <h2 className="pb-2 text-lg">Password</h2>
      <form onSubmit={submit} className="flex flex-col gap-4">
        <Field
          label="Old password"
          help="empty where you have none yet"
          name="old"
          type="password"
          autoComplete="current-password"
        />
        <NewPassword label="New password" help="" name="new" required />
        <button type="submit" className="plate self-start">
          Change password{change.isPending && '…'}
        </button>
        <p role="status" className="text-moss">
          {change.isSuccess && '✓ Password changed. All other sessions and tokens have ended.'}
        </p>
        <p role="alert" className="text-brick">
          {change.error && `✗ ${change.error.message}`}
        </p>
      </form>
    </section>
  )
}

function Sessions() {
  const queries = useQueryClient()
  const { data } = useQuery({ queryKey: ['sessions'], queryFn: () => get<Access[]>('/account/sessions') })
  return (
    <section className="pb-8">
      <div className="flex items-baseline justify-between">
        <h2 className="pb-2 text-lg">Where you are signed in</h2>
        <Act act={() => remove('/account/sessions').then(() => forget(queries))}>Sign out everywhere</Act>
      </div>
      <Table
        label="sessions"
        rows={data ?? []}
        id={(s) => String(s.id)}
        columns={[
          { id: 'from', head: 'Address', cell: (s) => s.address, by: (s) => s.address, style: 'font-mono text-sm' },
          {
            id: 'with',
            head: 'Browser',
            cell: (s) => s.agent || '–',
            title: (s) => s.agent,
            style: 'max-w-[320px] truncate text-sm',
          },
          { id: 'since', head: 'Since', cell: (s) => when(s.created), by: (s) => s.created },
          { id: 'seen', head: 'Last used', cell: (s) => when(s.seen), by: (s) => s.seen },
          {
            id: 'actions',
            head: <span className="sr-only">Actions</span>,
            number: true,
            cell: (s) =>
              s.this ? (
                'this session'
              ) : (
                <Act
                  label={`End the session from ${s.address}`}
                  act={() =>
                    remove(`/account/sessions/${s.id}`).then(() =>
                      queries.invalidateQueries({ queryKey: ['sessions'] }),
                    )
                  }
                >
                  End
                </Act>
              ),
          },
        ]}
      />
    </section>
  )
}

function Tokens() {
  const queries = useQueryClient()
  const [made, setMade] = useState('')
  const { data } = useQuery({ queryKey: ['tokens'], queryFn: () => get<Access[]>('/account/tokens') })
  const again = () => queries.invalidateQueries({ queryKey: ['tokens'] })
  return (
    <section className="pb-8">
      <div className="flex items-baseline justify-between">
        <h2 className="pb-2 text-lg">Personal tokens</h2>
        <Ask
          trigger={
            <button type="button" className="quiet">
              New token
            </button>
          }
          title="A personal token"
          help="It signs in the command line or your own program. It is shown only once."
          action="Create"
          done={async (f) => {
            const t = await post<Access>('/account/tokens', {
              name: f.get('name'),
              scope: f.get('scope'),
              days: Number(f.get('days')),
            })
            setMade(t.token ?? '')
            again()
          }}
        >
          <Field label="What it is for" name="name" required maxLength={120} />
          <Choice
            label="Scope"
            name="scope"
            options={[
              ['read', 'read'],
              ['submit', 'read and submit'],
              ['all', 'everything except passwords and tokens'],
            ]}
          />
          <Field label="Valid for (days)" name="days" type="number" min={1} max={366} defaultValue={90} required />
        </Ask>
      </div>
      {made && (
        <p role="status" className="py-2">
          Copy it now: <code className="font-mono text-sm break-all">{made}</code>
        </p>
      )}
      {data?.length === 0 && (
        <Empty>
          You have no tokens. To sign in from the command line with one, run{' '}
          <code className="font-mono text-sm">hemble login --token-stdin</code>.
        </Empty>
      )}
      {!!data?.length && (
        <Table
          label="tokens"
          rows={data}
          id={(t) => String(t.id)}
          columns={[
            { id: 'name', head: 'Purpose', cell: (t) => t.name, by: (t) => t.name.toLowerCase() },
            { id: 'scope', head: 'Scope', cell: (t) => t.scope, by: (t) => t.scope },
            { id: 'seen', head: 'Last used', cell: (t) => when(t.seen), by: (t) => t.seen },
            { id: 'expires', head: 'Expires', cell: (t) => when(t.expires), by: (t) => t.expires },
            {
              id: 'actions',
              head: <span className="sr-only">Actions</span>,
              number: true,
              cell: (t) => (
                <Act label={`Revoke ${t.name}`} act={() => remove(`/account/tokens/${t.id}`).then(again)}>
                  Revoke
                </Act>
              ),
            },
          ]}
        />
      )}
    </section>
  )
}
