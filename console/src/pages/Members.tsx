import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { address, part, post, put, remove, send } from '../api'
import type { Class, Member, OneTime, RosterChange } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { answers, useClass } from '../data/class'
import { useMembers } from '../data/members'
import { when } from '../time'
import { Copy } from '../ui/Copy'
import { Links, linkAt } from '../ui/Links'
import { Act } from '../ui/Act'
import { Table } from '../ui/Table'

export function Members() {
  const here = useClass()
  const queries = useQueryClient()
  const { data, error } = useMembers()
  const [link, setLink] = useState<OneTime>()
  const at = `/classes/${part(here.name)}`
  const again = () => {
    queries.invalidateQueries({ queryKey: ['members', here.name] })
    queries.invalidateQueries({ queryKey: ['class', here.name] })
  }
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-4 pt-6 pb-4">
        <h1 className="text-xl">Members</h1>
        {answers(here) && (
          <span className="flex flex-wrap items-center gap-2">
            <JoinCode here={here} again={again} />
            <a className="quiet no-underline" href={address(`${at}/roster`)}>
              Export roster
            </a>
            <Roster at={at} again={again} />
            <Ask
              trigger={
                <button type="button" className="plate">
                  Add member
                </button>
              }
              title="Add a member"
              action="Add"
              done={async (f) => {
                await put(`${at}/members/${part(String(f.get('login')))}`, {
                  name: f.get('name'),
                  role: f.get('role'),
                  group: f.get('group') ?? '',
                  number: f.get('number') ?? '',
                })
                again()
              }}
            >
              <Field label="Login" name="login" autoCapitalize="none" required />
              <Field label="Name" name="name" required maxLength={120} />
              <Choice
                label="Role"
                name="role"
                options={[
                  ['student', 'student'],
                  ['assistant', 'assistant: marks this class'],
                  ['instructor', 'instructor: manages this class'],
                ]}
              />
              <Field label="Group" name="group" maxLength={64} />
              <Field label="Student number" name="number" maxLength={64} />
            </Ask>
          </span>
        )}
      </div>
      {link && (
        <p role="status" className="pb-4">
          One-time link for {link.login}, valid for a week:{' '}
          <code className="font-mono text-sm break-all">{linkAt(link.path)}</code>{' '}
          <Copy text={linkAt(link.path)} label={`copy the link of ${link.login}`} />
        </p>
      )}
      {answers(here) && <Links name={here.name} members={data} again={again} />}
      {data.filter((m) => m.role === 'student').length === 0 && (
        <Empty>
          No students yet. Import a roster (CSV with the columns login, name, number and group) or give them a join
          code.
        </Empty>
      )}
      <Table
        label="members"
        rows={data}
        id={(m) => m.login}
        columns={[
          { id: 'name', head: 'Name', cell: (m) => m.name, by: (m) => m.name.toLowerCase() },
          { id: 'login', head: 'Login', cell: (m) => m.login, by: (m) => m.login, style: 'font-mono text-sm' },
          { id: 'role', head: 'Role', cell: (m) => m.role, by: (m) => m.role },
          { id: 'group', head: 'Group', cell: (m) => m.group, by: (m) => m.group },
          { id: 'number', head: 'Number', cell: (m) => m.number, by: (m) => m.number, number: true },
          {
            id: 'password',
            head: 'Password',
            cell: (m) => (m.signed_in ? 'set' : 'not set yet'),
            by: (m) => !m.signed_in,
            style: 'text-sm text-slate',
          },
          {
            id: 'actions',
            head: <span className="sr-only">Actions</span>,
            number: true,
            cell: (m) =>
              answers(here) &&
              m.role !== 'instructor' && (
                <>
                  <Link
                    member={m}
                    make={() => post<OneTime>(`${at}/members/${part(m.login)}/link`).then((l) => (setLink(l), again()))}
                  />
                  <Act label={`Remove ${m.name}`} act={() => remove(`${at}/members/${part(m.login)}`).then(again)}>
                    Remove
                  </Act>
                </>
              ),
          },
        ]}
      />
    </>
  )
}

// Link makes a link for one person. Where one is open, it asks first, since that one becomes invalid.
function Link({ member: m, make }: { member: Member; make: () => Promise<unknown> }) {
  const label = `Sign-in link for ${m.name}`
  if (!m.link_until)
    return (
      <Act label={label} act={make}>
        Link
      </Act>
    )
  return (
    <Ask
      trigger={
        <button type="button" className="quiet" aria-label={label}>
          New link
        </button>
      }
      title="Replace the link?"
      help={`${m.name} has a link that is valid until ${when(m.link_until)}. A new one makes it invalid.`}
      action="Create new link"
      done={make}
    />
  )
}

function JoinCode({ here, again }: { here: Class; again: () => void }) {
  const at = `/classes/${part(here.name)}/join-code`
  return here.join_code ? (
    <span className="text-slate">
      join code <strong className="font-mono text-ink">{here.join_code}</strong>
      <Act label="Remove the join code" act={() => remove(at).then(again)}>
        Remove
      </Act>
    </span>
  ) : (
    <Act act={() => post(at).then(again)}>Create join code</Act>
  )
}

// A roster is tried first: what it would do is shown before it is done.
function Roster({ at, again }: { at: string; again: () => void }) {
  const [file, setFile] = useState<File>()
  const [change, setChange] = useState<RosterChange>()
  const take = (csv: File, go: boolean) =>
    send<RosterChange>('POST', `${at}/roster${go ? '' : '?try=1'}`, 'text/csv', csv)
  return (
    <Ask
      trigger={
        <button type="button" className="quiet">
          Import roster…
        </button>
      }
      title="Import a roster"
      help="A CSV file with the columns login and name, and optionally number and group. Commas, semicolons and tabs work as separators. Nobody is removed."
      action={change ? 'Import' : 'Preview'}
      wide
      done={async () => {
        if (!file) return false
        if (!change) {
          setChange(await take(file, false))
          return false
        }
        await take(file, true)
        setChange(undefined)
        setFile(undefined)
        again()
      }}
    >
      <label>
        <span className="text-sm text-slate">File</span>
        <input
          type="file"
          accept=".csv,text/csv"
          className="field"
          required={!file}
          onChange={(e) => {
            setChange(undefined)
            setFile(e.target.files?.[0])
          }}
        />
      </label>
      {change && (
        <ul className="max-h-64 overflow-auto text-sm">
          <li className="text-slate">The file is read as {change.encoding}.</li>
          {change.added.map((m) => (
            <li key={m.login}>
              <span className="text-moss">+</span> {m.name} ({m.login})
            </li>
          ))}
          {change.changed.map((m) => (
            <li key={m.login}>
              <span className="text-amber">≈</span> {m.name} ({m.login})
            </li>
          ))}
          {change.missing.map((m) => (
            <li key={m.login} className="text-slate">
              · {m.name} ({m.login}) is in the class but not in the file: kept
            </li>
          ))}
          {change.wrong.map((w, i) => (
            <li key={i} className="text-brick">
              ✗ {w.line ? `row ${w.line}: ` : ''}
              {w.text}
            </li>
          ))}
        </ul>
      )}
    </Ask>
  )
}
