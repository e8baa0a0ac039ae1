import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { address, get, part, post, put } from '../api'
import { when } from '../time'
import type { Account, OneTime, QueueState } from '../types'
import { Act } from '../ui/Act'
import { Ask } from '../ui/Dialog'
import { Choice, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { AuditLog } from '../ui/AuditLog'
import { Table } from '../ui/Table'

// Administration of the service: the queue, the accounts, the audit log.
export function Administration() {
  return (
    <>
      <div className="flex items-end justify-between pt-8 pb-4">
        <h1 className="text-xl">Administration</h1>
        <a className="quiet no-underline" href={address('/backup')}>
          Download backup
        </a>
      </div>
      <Queue />
      <Accounts />
      <AuditLog path="/audit" />
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
        {data.waiting} waiting, {data.running.length} being marked, {data.quarantined.length} quarantined.
      </p>
      {data.quarantined.length > 0 && (
        <Table
          label="quarantined jobs"
          rows={data.quarantined}
          id={(j) => String(j.job)}
          columns={[
            {
              id: 'student',
              head: 'Student',
              cell: (j) => <Link to={`/submissions/${j.submission}`}>{j.student}</Link>,
              by: (j) => j.student,
            },
            { id: 'exercise', head: 'Exercise', cell: (j) => `${j.class}, ${j.exercise}`, by: (j) => j.exercise },
            { id: 'error', head: 'Reason', cell: (j) => j.error, style: 'text-sm text-brick' },
            {
              id: 'actions',
              head: <span className="sr-only">Actions</span>,
              number: true,
              cell: (j) => (
                <Act label={`Queue job ${j.job} again`} act={() => post(`/queue/${j.job}`).then(() => refetch())}>
                  Queue again
                </Act>
              ),
            },
          ]}
        />
      )}
    </section>
  )
}

const roles: [string, string][] = [
  ['person', 'person: as set in each class'],
  ['instructor', 'instructor: creates classes and exercises'],
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
      title={a ? `Account ${a.login}` : 'New account'}
      action="Save"
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
      <Choice label="Role" name="role" value={a?.role} options={roles} />
      <label className="flex items-center gap-2">
        <input type="checkbox" name="disabled" defaultChecked={a?.disabled} /> disabled: cannot sign in
      </label>
    </Ask>
  )
  const shown = data.filter((a) => `${a.login} ${a.name}`.toLowerCase().includes(search.toLowerCase()))
  return (
    <section className="pb-8" aria-labelledby="accounts">
      <div className="flex flex-wrap items-end justify-between gap-x-6 pb-2">
        <h2 id="accounts" className="text-lg">
          Accounts
        </h2>
        <span className="flex flex-wrap items-end gap-4">
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
          One-time link for {link.login}, valid for a week:{' '}
          <code className="font-mono text-sm break-all">{new URL(link.path.slice(1), document.baseURI).href}</code>
        </p>
      )}
      <Table
        label="list of accounts"
        tall
        rows={shown}
        id={(a) => a.login}
        columns={[
          { id: 'name', head: 'Name', cell: (a) => a.name, by: (a) => a.name.toLowerCase() },
          { id: 'login', head: 'Login', cell: (a) => a.login, by: (a) => a.login, style: 'font-mono text-sm' },
          { id: 'role', head: 'Role', cell: (a) => `${a.role}${a.disabled ? ', disabled' : ''}`, by: (a) => a.role },
          { id: 'created', head: 'Created', cell: (a) => when(a.created), by: (a) => a.created },
          {
            id: 'actions',
            head: <span className="sr-only">Actions</span>,
            number: true,
            cell: (a) => (
              <>
                {form(a)}
                <Act
                  label={`Sign-in link for ${a.name}`}
                  act={() => post<OneTime>(`/accounts/${part(a.login)}/link`).then(setLink)}
                >
                  Link
                </Act>
              </>
            ),
          },
        ]}
      />
    </section>
  )
}
