import { useInfiniteQuery } from '@tanstack/react-query'
import { get, part } from '../api'
import { when } from '../time'
import type { AuditEntry, Page } from '../types'
import { Problem, Waiting } from '../ui/Frame'
import { useClass } from './ClassFrame'
import { Wide } from '../ui/Wide'

export const ClassAudit = () => <Audit path={`/classes/${part(useClass().name)}/audit`} />

// Audit lists what changed marks and rights, the newest first.
export function Audit({ path }: { path: string }) {
  const { data, error, hasNextPage, fetchNextPage } = useInfiniteQuery({
    queryKey: ['audit', path],
    initialPageParam: '',
    queryFn: ({ pageParam }) => get<Page<AuditEntry>>(`${path}?limit=100${pageParam && `&after=${pageParam}`}`),
    getNextPageParam: (p) => p.next,
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <h1 className="pt-6 pb-4 text-xl">What changed marks and rights</h1>
      <Wide>
        <table className="book">
          <thead>
            <tr>
              <th>When</th>
              <th>By</th>
              <th>What</th>
              <th>Of</th>
              <th>More</th>
            </tr>
          </thead>
          <tbody>
            {data.pages
              .flatMap((p) => p.items)
              .map((e) => (
                <tr key={e.id}>
                  <td className="text-sm whitespace-nowrap">{when(e.at)}</td>
                  <td>{e.by}</td>
                  <td className="whitespace-nowrap">{e.action}</td>
                  <td className="font-mono text-sm">{e.subject}</td>
                  <td className="max-w-[420px] truncate text-sm text-slate" title={e.detail}>
                    {e.detail}
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
      </Wide>
      {hasNextPage && (
        <button type="button" className="quiet" onClick={() => fetchNextPage()}>
          Older ones
        </button>
      )}
    </>
  )
}
