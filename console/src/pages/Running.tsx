import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { address, get, part, post, put } from '../api'
import { when } from '../time'
import type { Account, OneTime, QueueState } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { Audit } from './Audit'

// Running the service: what waits, who there is, what happened.
export function Running() {
  return (
    <>
      <div className="flex items-end justify-between pt-8 pb-4">
        <h1 className="text-xl">Running the service</h1>
        <a className="quiet no-underline" href={address('/backup')}>
          Backup
        </a>
      </div>
      <Queue />
      <Accounts />
      <Audit path="/audit" />
    </>
  )
}

function Queue() {
  const { data, error, refetch } = useQuery({
    queryKey: ['queue'],
    queryFn: () => get<QueueState>('/queue'),
    refetchInterval: 2000,
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <section className="pb-8" aria-labelledby="queue">
      <h2 id="queue" className="pb-2 text-lg">
        Queue
      </h2>
      <p aria-live="polite">
        {data.waiting} waiting, {data.running.length} being marked, {data.quarantined.length} set aside.
      </p>
      {data.quarantined.length > 0 && (
        <table className="book">
          <tbody>
            {data.quarantined.map((j) => (
              <tr key={j.job}>
                <td>
                  <Link to={`/submissions/${j.submission}`}>{j.student}</Link>
                </td>
                <td>
                  {j.class}, {j.exercise}
                </td>
                <td className="text-sm text-brick">{j.error}</td>
                <td className="number">
                  <button type="button" className="quiet" onClick={() => post(`/queue/${j.job}`).then(() => refetch())}>
                    Queue again
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

const roles: [string, string][] = [
  ['person', 'what classes make of them'],
  ['instructor', 'instructor: makes classes and exercises'],
  ['admin', 'admin: runs the service'],
]

function Accounts() {
  const queries = useQueryClient()
  const [link, setLink] = useState<OneTime>()
  const [search, setSearch] = useState('')
  const { data, error } = useQuery({ queryKey: ['accounts'], queryFn: () => get<Account[]>('/accounts') })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const again = () => queries.invalidateQueries({ queryKey: ['accounts'] })
  const form = (a?: Account) => (
    <Ask
      trigger={
        <button type="button" className={a ? 'quiet' : 'plate'} aria-label={a ? `Change ${a.name}` : undefined}>
          {a ? 'Change' : 'New account'}
        </button>
      }
      title={a ? a.login : 'A new account'}
      action="Keep"
      done={async (f) => {
        await put(`/accounts/${part(a?.login ?? String(f.get('login')))}`, {
          name: f.get('name'),
          role: f.get('role'),
          disabled: f.get('disabled') === 'on',
        })
        again()
      }}
    >
      {!a && <Field label="Login" name="login" autoCapitalize="none" required />}
      <Field label="Name" name="name" defaultValue={a?.name} required maxLength={120} />
      <Choice label="Is" name="role" value={a?.role} options={roles} />
      <label className="flex items-center gap-2">
        <input type="checkbox" name="disabled" defaultChecked={a?.disabled} /> shut out
      </label>
    </Ask>
  )
  const shown = data.filter((a) => `${a.login} ${a.name}`.toLowerCase().includes(search.toLowerCase())).slice(0, 200)
  return (
    <section className="pb-8" aria-labelledby="accounts">
      <div className="flex items-end justify-between pb-2">
        <h2 id="accounts" className="text-lg">
          Accounts
        </h2>
        <span className="flex items-end gap-4">
          <input
            type="search"
            aria-label="find accounts"
            placeholder="name or login"
            className="field w-48"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          {form()}
        </span>
      </div>
      {link && (
        <p role="status" className="pb-2">
          For {link.login}, once, within a week:{' '}
          <code className="font-mono text-sm break-all">{new URL(link.path.slice(1), document.baseURI).href}</code>
        </p>
      )}
      <div className="max-h-96 overflow-auto" tabIndex={0} role="region" aria-label="list of accounts">
        <table className="book">
          <tbody>
            {shown.map((a) => (
              <tr key={a.login}>
                <td>{a.name}</td>
                <td className="font-mono text-sm">{a.login}</td>
                <td>
                  {a.role}
                  {a.disabled && ', shut out'}
                </td>
                <td className="text-sm text-slate">since {when(a.created)}</td>
                <td className="number">
                  {form(a)}
                  <button
                    type="button"
                    className="quiet"
                    aria-label={`Link for ${a.name} to sign in with`}
                    onClick={() => post<OneTime>(`/accounts/${part(a.login)}/link`).then(setLink)}
                  >
                    Link
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}
