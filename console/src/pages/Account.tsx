import { useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { get, post, put, remove } from '../api'
import { when } from '../time'
import type { Access } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty, Field, NewPassword } from '../ui/fields'
import { forget } from '../ui/Frame'
import { Wide } from '../ui/Wide'

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
  const [told, setTold] = useState<[boolean, string]>([true, ''])
  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const form = event.currentTarget
    const f = new FormData(form)
    try {
      await put('/account/password', { old: f.get('old'), new: f.get('new') })
      form.reset()
      setTold([true, '✓ changed; every other session and every token has ended'])
    } catch (e) {
      setTold([false, `✗ ${(e as Error).message}`])
    }
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
          Change
        </button>
        <p role="status" className={told[0] ? 'text-moss' : 'text-brick'}>
          {told[1]}
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
        <button type="button" className="quiet" onClick={() => remove('/account/sessions').then(() => forget(queries))}>
          Sign out everywhere
        </button>
      </div>
      <Wide>
        <table className="book">
          <thead>
            <tr>
              <th>From</th>
              <th>With</th>
              <th>Since</th>
              <th>Last used</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {data?.map((s) => (
              <tr key={s.id}>
                <td className="font-mono text-sm">{s.address}</td>
                <td className="max-w-[320px] truncate text-sm" title={s.agent}>
                  {s.agent || '–'}
                </td>
                <td>{when(s.created)}</td>
                <td>{when(s.seen)}</td>
                <td className="number">
                  {s.this ? (
                    'this one'
                  ) : (
                    <button
                      type="button"
                      className="quiet"
                      onClick={() =>
                        remove(`/account/sessions/${s.id}`).then(() =>
                          queries.invalidateQueries({ queryKey: ['sessions'] }),
                        )
                      }
                    >
                      End
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
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
          help="It signs the command line or a program of yours in. It is shown once."
          action="Make it"
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
            label="Good for"
            name="scope"
            options={[
              ['read', 'reading'],
              ['submit', 'reading and handing in'],
              ['all', 'everything but passwords and tokens'],
            ]}
          />
          <Field label="Days until it ends" name="days" type="number" min={1} max={366} defaultValue={90} required />
        </Ask>
      </div>
      {made && (
        <p role="status" className="py-2">
          Keep it now: <code className="font-mono text-sm break-all">{made}</code>
        </p>
      )}
      {data?.length === 0 && (
        <Empty>
          You have none. The command line signs in with one by{' '}
          <code className="font-mono text-sm">hemble login --token-stdin</code>.
        </Empty>
      )}
      {!!data?.length && (
        <table className="book">
          <thead>
            <tr>
              <th>For</th>
              <th>Good for</th>
              <th>Last used</th>
              <th>Ends</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {data.map((t) => (
              <tr key={t.id}>
                <td>{t.name}</td>
                <td>{t.scope}</td>
                <td>{when(t.seen)}</td>
                <td>{when(t.expires)}</td>
                <td className="number">
                  <button type="button" className="quiet" onClick={() => remove(`/account/tokens/${t.id}`).then(again)}>
                    End
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
