import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { get, part } from '../api'
import type { Wave } from '../bench/Lanes'
import type { Frame, Window } from '../types'

// How much is looked at with the eye off, in microseconds.
export const widths = [200, 1_000, 5_000, 20_000, 100_000, 1_000_000]

const micro = 1e6

// What happened around a moment with the eye off, turned into what pages draw.
export interface Seen {
  from: number
  to: number
  left: number
  edges: number[]
  frames: Record<string, Frame[]> // of each display
  waves: Wave[]
  sources: { at: number; source: string }[]
}

// useEyeOff runs the trial again around a moment, and again where the time leaves what is known.
export function useEyeOff(id: string, trial: number, on: boolean, time: number, width: number, length: number) {
  const [from, setFrom] = useState(0)
  useEffect(() => {
    const at = time / micro
    if (on && (at < from || at > from + width)) setFrom(Math.max(0, Math.floor(at - width / 4)))
  }, [on, time, from, width])
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

// read lays the moments out by display and by net.
export function read(w: Window): Seen {
  const out: Seen = { from: w.from, to: w.to, left: w.left, edges: [], frames: {}, waves: [], sources: [] }
  const nets = new Map<string, Wave>()
  const end = w.left ? (w.moments.at(-1)?.at ?? w.to) : w.to
  for (const m of w.moments) {
    out.edges.push(m.at)
    if (m.source) out.sources.push({ at: m.at, source: m.source })
    for (const [display, sight] of Object.entries(m.sights ?? {})) {
      const frames = (out.frames[display] ??= [])
      const last = frames.at(-1)
      if (last) last.to = m.at
      frames.push({ from: m.at, to: end, text: 'as driven', sight })
    }
    for (const [net, level] of Object.entries(m.nets ?? {})) {
      if (net === 'VCC' || net === 'GND') continue
      if (!nets.has(net)) nets.set(net, { net, changes: [], to: end })
      nets.get(net)!.changes.push({ at: m.at, level })
    }
  }
  out.waves = [...nets.values()].sort((a, b) => a.net.localeCompare(b.net, 'en', { numeric: true }))
  return out
}

// sourceAt is the place in the program that was last at work at a moment.
export function sourceAt(seen: Seen, time: number): string | undefined {
  return seen.sources.findLast((s) => s.at <= time)?.source
}
