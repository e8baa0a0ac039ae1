import { useQuery, useQueryClient } from '@tanstack/react-query'
import { get } from '../api'
import { useChanges } from '../changes'
import type { Page, Submission } from '../types'

// everything reads all pages of a list.
async function everything(at: string): Promise<Submission[]> {
  const all: Submission[] = []
  for (let after = ''; ;) {
    const page = await get<Page<Submission>>(`${at}/submissions?limit=1000${after && `&after=${after}`}`)
    all.push(...page.items)
    if (!page.next) return all
    after = page.next
  }
}

// useSubmissions gives the submissions of an assignment, as they are now.
export function useSubmissions(className: string, exercise: string, at: string) {
  const queries = useQueryClient()
  const key = ['submissions', className, exercise]
  const list = useQuery({ queryKey: key, queryFn: () => everything(at) })
  useChanges(className, (changed) => {
    if (changed && changed.exercise !== exercise) return
    const known = queries.getQueryData<Submission[]>(key)
    if (changed && known?.some((s) => s.id === changed.id)) {
      queries.setQueryData(
        key,
        known.map((s) => (s.id === changed.id ? { ...changed, counts: s.counts } : s)),
      )
    } else {
      list.refetch()
    }
  })
  return list
}

// Order is what a list showed when one of its submissions was opened: next and previous keep to it, and the way back leads there.
export interface Order {
  ids: string[]
  back: string
}
