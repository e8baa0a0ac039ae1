import { useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get } from '../api'
import { when } from '../time'
import type { AuditEntry, Page } from '../types'
import { Act } from './Act'
import { sentence } from './audit'
import { Problem, Waiting } from './Frame'

// AuditLog returns what changed marks and rights, the newest first, a sentence for each.
export function AuditLog({ path, page }: { path: string; page?: boolean }) {
  const Heading = page ? 'h1' : 'h2' // it is a page of its own, or a part of one
  const [search, setSearch] = useState('')
  const { data, error, hasNextPage, fetchNextPage } = useInfiniteQuery({
    queryKey: ['audit', path],
    initialPageParam: '',
    queryFn: ({ pageParam }) => get<Page<AuditEntry>>(`${path}?limit=100${pageParam && `&after=${pageParam}`}`),
    getNextPageParam: (p) => p.next,
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const all = data.pages.flatMap((p) => p.items)
  const wanted = search.trim().toLowerCase()
  const shown = all
    .map((e) => ({ e, text: sentence(e) }))
    .filter(({ e, text }) => !wanted || `${text} ${e.by} ${e.class ?? ''}`.toLowerCase().includes(wanted))
  return (
    <section aria-labelledby="audit">
      <div className="flex flex-wrap items-end justify-between gap-4 pt-6 pb-4">
        <Heading id="audit" className="text-xl">
          Audit log
        </Heading>
        <input
          type="search"
          aria-label="filter the audit log"
          placeholder="person, exercise, action"
          className="field w-56"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
      </div>
      <ul>
        {shown.map(({ e, text }) => (
          <li key={e.id} className="grid gap-x-6 border-t border-line py-1 sm:grid-cols-[170px_1fr]">
            <time dateTime={e.at} className="text-sm text-slate">
              {when(e.at)}
            </time>
            <span className="wrap-anywhere">
              {text}
              {e.class && <span className="text-sm text-slate"> · {e.class}</span>}
            </span>
          </li>
        ))}
      </ul>
      {!shown.length && <p className="py-4 text-slate">No entry matches.</p>}
      <p className="flex flex-wrap items-center gap-x-4 pt-2 text-sm text-slate">
        {wanted ? `${shown.length} of the ${all.length} entries loaded` : `${all.length} entries`}
        {hasNextPage && <Act act={() => fetchNextPage({ throwOnError: true })}>Load older entries</Act>}
      </p>
    </section>
  )
}
