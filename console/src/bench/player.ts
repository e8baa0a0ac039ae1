import { useCallback, useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react'
import { second } from '../time'

export const speeds = [0.1, 0.25, 0.5, 1, 2, 4, 8, 16]
// and as driven
export const slow = [0.00001, 0.0001, 0.001, 0.01, 0.1]

// Clock is the time that a page shows. It changes many times a second: only what reads it with useTime is redrawn.
export interface Clock {
  now: () => number
  set: (t: number) => void
  subscribe: (told: () => void) => () => void
}

function newClock(): Clock {
  let time = 0
  const listeners = new Set<() => void>()
  return {
    now: () => time,
    set: (t) => {
      if (t === time) return
      time = t
      for (const told of listeners) told()
    },
    subscribe: (told) => {
      listeners.add(told)
      return () => listeners.delete(told)
    },
  }
}

// useTime reads a clock, and continues reading it as long as it is wanted.
export function useTime(clock: Clock, wanted = true) {
  return useSyncExternalStore(clock.subscribe, () => (wanted ? clock.now() : 0))
}

// usePlayer moves a clock from 0 to length at a speed; edges are the moments that step stops at.
export function usePlayer(length: number, edges: number[]) {
  const clock = useMemo(() => newClock(), [])
  const [playing, setPlaying] = useState(false)
  const [speed, setSpeed] = useState(1)
  const last = useRef(0)

  useEffect(() => {
    if (!playing) return
    let frame = 0
    last.current = performance.now()
    const tick = (now: number) => {
      const passed = ((now - last.current) / 1000) * second * speed
      last.current = now
      clock.set(Math.min(length, clock.now() + passed))
      if (clock.now() >= length) setPlaying(false)
      else frame = requestAnimationFrame(tick)
    }
    frame = requestAnimationFrame(tick)
    return () => cancelAnimationFrame(frame)
  }, [clock, playing, speed, length])

  const seek = useCallback((t: number) => clock.set(Math.max(0, Math.min(length, t))), [clock, length])
  const step = useCallback(
    (direction: 1 | -1) => {
      setPlaying(false)
      const t = clock.now()
      clock.set(direction > 0 ? (edges.find((e) => e > t) ?? length) : (edges.findLast((e) => e < t) ?? 0))
    },
    [clock, edges, length],
  )
  const toggle = useCallback(() => {
    if (clock.now() >= length) clock.set(0)
    setPlaying((p) => !p)
  }, [clock, length])

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (
        e.target instanceof HTMLInputElement ||
        e.target instanceof HTMLButtonElement ||
        e.ctrlKey ||
        e.metaKey ||
        e.altKey
      )
        return
      if ((e.target as HTMLElement)?.getAttribute?.('role') === 'slider') return
      if (e.key === ' ') toggle()
      else if (e.key === 'ArrowRight') step(1)
      else if (e.key === 'ArrowLeft') step(-1)
      else return
      e.preventDefault()
    }
    window.addEventListener('keydown', key)
    return () => window.removeEventListener('keydown', key)
  }, [toggle, step])

  return { clock, playing, speed, setSpeed, seek, step, toggle }
}

export type Player = ReturnType<typeof usePlayer>
