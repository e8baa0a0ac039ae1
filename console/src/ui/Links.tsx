import { useState } from 'react'
import { part, post } from '../api'
import { when } from '../time'
import type { Links as Made, Member } from '../types'
import { Act } from './Act'
import { Copy } from './Copy'

export const linkAt = (path: string) => new URL(path.slice(1), document.baseURI).href

const cell = (text: string) => `"${(/^[=+\-@\t]/.test(text) ? `'${text}` : text).replaceAll('"', '""')}"`

// Links makes links for all students who have not signed in yet: each can be copied, all be printed or saved. A link is seen once;
// one that was given out is replaced only where that is asked for.
export function Links({ name, members, again }: { name: string; members: Member[]; again: () => void }) {
  const at = `/classes/${part(name)}/links`
  const [made, setMade] = useState<Made>()
  const waiting = members.filter((m) => m.role === 'student' && !m.signed_in)
  const make = (replace: string[]) =>
    post<Made>(at, { replace }).then((m) => {
      setMade((was) => ({
        links: [...(was?.links.filter((l) => !m.links.some((n) => n.login === l.login)) ?? []), ...m.links],
        kept: m.kept.filter((k) => !was?.links.some((l) => l.login === k.login)),
      }))
      again()
    })
  if (!waiting.length && !made) return null
  return (
    <section aria-label="links" className="border-y border-line py-3">
      <div className="flex flex-wrap items-center gap-4 print:hidden">
        {waiting.length > 0 && (
          <Act act={() => make([])}>Create links for all {waiting.length} who have not signed in</Act>
        )}
        {!!made?.links.length && (
          <>
            <button type="button" className="quiet" onClick={() => print()}>
              Print
            </button>
            <a
              className="quiet no-underline"
              download={`${name}-links.csv`}
              href={`data:text/csv;charset=utf-8,${encodeURIComponent(['login,name,group,link', ...made.links.map((l) => [l.login, l.name, l.group, linkAt(l.path)].map(cell).join(','))].join('\r\n'))}`}
            >
              Export as CSV
            </a>
            <button type="button" className="quiet" onClick={() => setMade(undefined)}>
              Close
            </button>
          </>
        )}
      </div>
      {made && (
        <>
          <p role="status" className="py-2 text-sm text-slate">
            {made.links.length} links. Each signs its student in once, until{' '}
            {made.links[0] ? when(made.links[0].expires) : '–'}. They are shown only once.
          </p>
          <table className="book">
            <tbody>
              {made.links.map((l) => (
                <tr key={l.login}>
                  <td className="whitespace-nowrap">{l.name}</td>
                  <td className="font-mono text-sm">{l.login}</td>
                  <td>{l.group}</td>
                  <td className="font-mono text-sm break-all">{linkAt(l.path)}</td>
                  <td className="number print:hidden">
                    <Copy text={linkAt(l.path)} label={`copy the link of ${l.name}`} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {made.kept.length > 0 && (
            <p className="py-2 text-sm text-amber print:hidden">
              ≈ {made.kept.map((m) => m.name).join(', ')}{' '}
              {made.kept.length === 1
                ? 'already has a link, which is still valid'
                : 'already have links, which are still valid'}
              . <Act act={() => make(made.kept.map((m) => m.login))}>Replace them</Act>
            </p>
          )}
        </>
      )}
    </section>
  )
}
