import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get } from '../api'
import type { Reference } from '../types'
import { Problem, Waiting } from '../ui/Frame'

// Help is what may be in an exercise file, with pictures and pins; a click puts an example into the text, where it belongs.
export function Help({ insert }: { insert: (text: string, under: 'bench' | 'expect') => void }) {
  const { data, error } = useQuery({
    queryKey: ['reference'],
    staleTime: Infinity,
    queryFn: () => get<Reference>('/reference'),
  })
  const [search, setSearch] = useState('')
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const wanted = (name: string, doc: string) => `${name} ${doc}`.toLowerCase().includes(search.trim().toLowerCase())
  const parts = data.parts.filter((p) => wanted(`${p.name} ${p.title}`, p.doc))
  const kinds = data.expectations.filter((k) => wanted(k.name, k.doc))
  return (
    <div className="max-h-[68vh] overflow-auto pr-2" tabIndex={0} role="region" aria-label="help">
      <input
        type="search"
        className="field mb-3 w-64"
        aria-label="search the reference"
        placeholder="a part, an expectation, a word"
        value={search}
        onChange={(e) => setSearch(e.target.value)}
      />
      <h3>Parts</h3>
      {parts.map((p) => (
        <details key={p.name} className="border-t border-line py-1">
          <summary>
            <span className="font-mono text-bottle">{p.name}</span> <span className="text-slate">{p.title}</span>
          </summary>
          <div className="flex flex-wrap gap-4 py-2">
            {p.picture && (
              <img
                alt={`${p.title}, lit`}
                className="max-h-28 max-w-48 bg-[#181613]"
                src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(p.picture)}`}
              />
            )}
            <p className="max-w-[60ch] text-sm">{p.doc}</p>
          </div>
          <Options title="pins" list={p.pins} />
          <Options title="settings" list={p.settings ?? []} />
          <Example text={p.example} put={() => insert(p.example, 'bench')} />
        </details>
      ))}
      <h3 className="pt-4">Expectations</h3>
      {kinds.map((k) => (
        <details key={k.name} className="border-t border-line py-1">
          <summary>
            <span className="font-mono text-bottle">{k.name}</span>{' '}
            <span className="text-slate">{k.doc.split('. ')[0]}</span>
          </summary>
          <p className="max-w-[60ch] py-2 text-sm">{k.doc}</p>
          <Options title="options" list={k.options ?? []} />
          <Example text={k.example} put={() => insert(k.example, 'expect')} />
        </details>
      ))}
      {!parts.length && !kinds.length && <p className="py-4 text-slate">No match.</p>}
    </div>
  )
}

function Options({ title, list }: { title: string; list: { name: string; doc: string; default?: string }[] }) {
  if (!list.length) return null
  return (
    <details className="text-sm">
      <summary className="text-slate">
        {list.length} {title}
      </summary>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 py-1">
        {list.map((o) => (
          <div key={o.name} className="contents">
            <dt className="font-mono">{o.name}</dt>
            <dd className="text-slate">
              {o.doc}
              {o.default ? `; default: ${o.default}` : ''}
            </dd>
          </div>
        ))}
      </dl>
    </details>
  )
}

function Example({ text, put }: { text: string; put: () => void }) {
  return (
    <div className="py-2">
      <pre className="overflow-auto border border-line p-2 font-mono text-sm" tabIndex={0}>
        {text}
      </pre>
      <button type="button" className="quiet" onClick={put}>
        Insert
      </button>
    </div>
  )
}
