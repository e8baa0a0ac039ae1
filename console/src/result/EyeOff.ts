import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { get, part } from '../api'
import type { Window } from '../types'
import { read } from './seen'

// How much is looked at as driven, in microseconds.
export const widths = [200, 1_000, 5_000, 20_000, 100_000, 1_000_000]

const micro = 1e6

// useEyeOff runs the trial again around a moment, and again where the time leaves what is known.
export function useEyeOff(id: string, trial: number, on: boolean, time: number, width: number, length: number) {
  const [from, setFrom] = useState(0)
  const at = time / micro
  if (on && (at < from || at > from + width)) setFrom(Math.max(0, Math.floor(at - width / 4)))
  const to = Math.min(from + width, Math.ceil(length / micro))
  const query = useQuery({
    queryKey: ['window', id, trial, from, to],
    enabled: on && to > from,
    staleTime: Infinity,
    retry: false,
    queryFn: () => get<Window>(`/submissions/${part(id)}/reels/${trial}/window?from=${from}&to=${to}`),
  })
  const seen = useMemo(() => (query.data && on ? read(query.data) : undefined), [query.data, on])
  return { seen, error: on ? query.error : null, waiting: on && query.isFetching }
}
