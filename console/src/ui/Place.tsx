import { useQuery } from '@tanstack/react-query'
import { get } from '../api'
import type { Place } from '../types'

// What is simulated on request takes turns: the words of one under way, or how many come before it.
export function InTurn({ during }: { during: string }) {
  const { data } = useQuery({
    queryKey: ['place'],
    queryFn: () => get<Place>('/place'),
    refetchInterval: 1000,
    gcTime: 0,
    staleTime: 0,
    retry: false,
  })
  if (!data?.waiting) return <>{during}</>
  return (
    <>
      {data.ahead === 1
        ? 'waiting for one simulation before yours…'
        : `waiting for ${data.ahead} simulations before yours…`}
    </>
  )
}
