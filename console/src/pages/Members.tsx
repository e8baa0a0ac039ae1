import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { address, get, part, post, put, remove, send } from '../api'
import type { Class, Member, OneTime, RosterChange } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty, Field } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { answers, useClass } from './ClassFrame'
import { useParams } from 'react-router'
import { when } from '../time'
import { Copy } from '../ui/Copy'
import { Links, linkAt } from './Links'
import { Wide } from '../ui/Wide'

function useMembers() {
  const { class: name = '' } = useParams()
  return useQuery({ queryKey: ['members', name], queryFn: () => get<Member[]>(`/classes/${part(name)}/members`) })
}

// useStudents gives the students of the class that a page is in.
export const useStudents = () => useMembers().data?.filter((m) => m.role === 'student') ?? []

export function Members() {
  const here = useClass()
  const queries = useQueryClient()
  const { data, error } = useMembers()
  const [link, setLink] = useState<OneTime>()
  const [problem, setProblem] = useState('')
  const at = `/classes/${part(here.name)}`
  const again = () => {
    queries.invalidateQueries({ queryKey: ['members', here.name] })
    queries.invalidateQueries({ queryKey: ['class', here.name] })
  }
  const tell = (e: Error) => setProblem(e.message)
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-4 pt-6 pb-4">
        <h1 className="text-xl">People</h1>
        {answers(here) && (
          <span className="flex flex-wrap items-center gap-2">
            <JoinCode here={here} again={again} />
            <a className="quiet no-underline" href={address(`${at}/roster`)}>
              Roster as CSV
            </a>
            <Roster at={at} again={again} />
            <Ask
              trigger={
                <button type="button" className="plate">
                  Add somebody
                </button>
              }
              title="Put somebody into the class"
              action="Put in"
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
                label="Is"
                name="role"
                options={[
                  ['student', 'a student'],
                  ['assistant', 'an assistant: marks this class'],
                  ['instructor', 'an instructor: answers for this class'],
                ]}
              />
              <Field label="Group" name="group" maxLength={64} />
              <Field label="Number at the school" name="number" maxLength={64} />
            </Ask>
          </span>
        )}
      </div>
      {link && (
        <p role="status" className="pb-4">
          For {link.login}, once, within a week:{' '}
          <code className="font-mono text-sm break-all">{linkAt(link.path)}</code>{' '}
          <Copy text={linkAt(link.path)} label={`copy the link of ${link.login}`} />
        </p>
      )}
      <p role="alert" className="text-brick">
        {problem && `✗ ${problem}`}
      </p>
      {answers(here) && <Links name={here.name} members={data} again={again} />}
      {data.filter((m) => m.role === 'student').length === 0 && (
        <Empty>
          No students yet. Bring them in by a roster (CSV with login, name, number and group), or give them a join code.
        </Empty>
      )}
      <Wide>
        <table className="book">
          <thead>
            <tr>
              <th>Name</th>
              <th>Login</th>
              <th>Is</th>
              <th>Group</th>
              <th className="number">Number</th>
              <th>Password</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {data.map((m) => (
              <tr key={m.login}>
                <td>{m.name}</td>
                <td className="font-mono text-sm">{m.login}</td>
                <td>{m.role}</td>
                <td>{m.group}</td>
                <td className="number">{m.number}</td>
                <td className="text-sm text-slate">{m.signed_in ? 'has one' : 'not yet'}</td>
                <td className="number">
                  {answers(here) && m.role !== 'instructor' && (
                    <>
                      <Link
                        member={m}
                        make={() =>
                          post<OneTime>(`${at}/members/${part(m.login)}/link`).then((l) => (setLink(l), again()), tell)
                        }
                      />
                      <button
                        type="button"
                        className="quiet"
                        aria-label={`Take out ${m.name}`}
                        onClick={() => remove(`${at}/members/${part(m.login)}`).then(again, tell)}
                      >
                        Take out
                      </button>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </>
  )
}

// Link makes a link for one person. Where one is open, it is asked first: that would be void.
function Link({ member: m, make }: { member: Member; make: () => Promise<unknown> }) {
  const label = `Link for ${m.name} to sign in with`
  if (!m.link_until)
    return (
      <button type="button" className="quiet" aria-label={label} onClick={make}>
        Link
      </button>
    )
  return (
    <Ask
      trigger={
        <button type="button" className="quiet" aria-label={label}>
          New link
        </button>
      }
      title="Another link?"
      help={`${m.name} has one that is good until ${when(m.link_until)}. A new one makes it void.`}
      action="Make a new one"
      done={make}
    >
      <></>
    </Ask>
  )
}

function JoinCode({ here, again }: { here: Class; again: () => void }) {
  const at = `/classes/${part(here.name)}/join-code`
  return here.join_code ? (
    <span className="text-slate">
      join code <strong className="font-mono text-ink">{here.join_code}</strong>
      <button type="button" className="quiet" onClick={() => remove(at).then(again)}>
        take it away
      </button>
    </span>
  ) : (
    <button type="button" className="quiet" onClick={() => post(at).then(again)}>
      Join code
    </button>
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
          Take in a roster…
        </button>
      }
      title="A roster"
      help="CSV with the headings login and name, and as you have them number and group; separated by commas, semicolons or tabs. Nobody is taken out by it."
      action={change ? 'Take it in' : 'See what it would do'}
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
              · {m.name} ({m.login}) is in the class and not in the file: stays
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
