import type { Wave } from '../bench/Lanes'
import type { Frame, Window } from '../types'

// What happened around a moment as driven, turned into what pages draw.
export interface Seen {
  from: number
  to: number
  left: number
  edges: number[]
  frames: Record<string, Frame[]> // of each display
  waves: Wave[]
  sources: { at: number; source: string }[]
}

// read lays the moments out by display and by net.
export function read(w: Window): Seen {
  const out: Seen = { from: w.from, to: w.to, left: w.left, edges: [], frames: {}, waves: [], sources: [] }
  const nets = new Map<string, Wave>()
  const end = w.left ? (w.moments.at(-1)?.at ?? w.to) : w.to
  for (const m of w.moments) {
    out.edges.push(m.at)
    if (m.source) out.sources.push({ at: m.at, source: m.source })
    for (const [display, state] of Object.entries(m.states ?? {})) {
      const frames = (out.frames[display] ??= [])
      const last = frames.at(-1)
      if (last) last.to = m.at
      frames.push({ from: m.at, to: end, text: 'as driven', state })
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
