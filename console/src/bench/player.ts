import { useCallback, useEffect, useRef, useState } from 'react'
import { second } from '../time'

export const speeds = [0.1, 0.25, 0.5, 1, 2, 4, 8, 16]
// and with the eye off
export const slow = [0.00001, 0.0001, 0.001, 0.01, 0.1]

// usePlayer moves a time from 0 to length at a speed; edges are the moments that step stops at.
export function usePlayer(length: number, edges: number[]) {
  const [time, setTime] = useState(0)
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
      setTime((t) => Math.min(length, t + passed))
      frame = requestAnimationFrame(tick)
    }
    frame = requestAnimationFrame(tick)
    return () => cancelAnimationFrame(frame)
  }, [playing, speed, length])

  useEffect(() => {
    if (playing && time >= length) setPlaying(false)
  }, [playing, time, length])

  const seek = useCallback((t: number) => setTime(Math.max(0, Math.min(length, t))), [length])
  const step = useCallback(
    (direction: 1 | -1) => {
      setPlaying(false)
      setTime((t) => (direction > 0 ? (edges.find((e) => e > t) ?? length) : (edges.findLast((e) => e < t) ?? 0)))
    },
    [edges, length],
  )
  const toggle = useCallback(() => {
    setTime((t) => (t >= length ? 0 : t))
    setPlaying((p) => !p)
  }, [length])

  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.target instanceof HTMLInputElement || e.target instanceof HTMLButtonElement || e.ctrlKey || e.metaKey || e.altKey) return
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

  return { time, playing, speed, setSpeed, seek, step, toggle }
}

export type Player = ReturnType<typeof usePlayer>
