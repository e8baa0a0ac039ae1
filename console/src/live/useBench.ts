import { useCallback, useEffect, useRef, useState } from 'react'
import type { Track, Tried } from '../types'
import type { Answer, Description, Doing, Port, Request, Trace } from './protocol'

// State is what a page draws of a bench, but for its time.
export interface State {
  displays: Track[]
  serial?: Port[]
  traces?: Trace[]
  until: number // where the traces end, in ns
  running: boolean
  share: number // of the speed that is asked for, in steps
  stop: string
}

// Time is that of the bench in ns. It changes many times a second: only what reads it is drawn anew.
export interface Time {
  now: () => number
  subscribe: (told: () => void) => () => void
}

// next is the state behind an answer; the same one where nothing is different.
function next(was: State, a: Extract<Answer, { kind: 'shown' }>): State {
  const share = Math.round(a.share * 20) / 20
  if (
    !a.displays?.length &&
    a.serial === undefined &&
    !a.traces &&
    was.running === a.running &&
    was.share === share &&
    was.stop === a.stop
  )
    return was
  const changed = new Map(a.displays?.map((d) => [d.display, d]))
  return {
    displays: was.displays.map((t) => (changed.has(t.display) ? { ...t, ...changed.get(t.display) } : t)),
    serial: a.serial ?? was.serial,
    traces: a.traces ?? was.traces,
    until: a.until ?? was.until,
    running: a.running,
    share,
    stop: a.stop,
  }
}

type Opened = Omit<Extract<Request, { kind: 'open' }>, 'kind'>

// useBench has a bench simulated in a worker of its own, from when it is first opened until the page goes.
export function useBench() {
  const worker = useRef<Worker>(undefined)
  const [bench, setBench] = useState<Description>()
  const [trials, setTrials] = useState<string[]>([])
  const [shown, setShown] = useState<State>()
  const [clock] = useState(() => {
    let now = 0
    let told = 0 // when it was told last: figures that nobody can read cost a frame each
    const listeners = new Set<() => void>()
    return {
      now: () => now,
      set: (t: number, running: boolean) => {
        if (t === now || (running && t > now && performance.now() - told < 90)) return
        now = t
        told = performance.now()
        for (const tell of listeners) tell()
      },
      subscribe: (told: () => void) => {
        listeners.add(told)
        return () => listeners.delete(told)
      },
    }
  })
  const [error, setError] = useState('')
  const [waiting, setWaiting] = useState(false)
  const checked = useRef<(tried?: Tried) => void>(undefined)
  const ended = useRef<(end: { length: number; done: Doing[] }) => void>(undefined)

  const say = useCallback((m: Request) => worker.current?.postMessage(m), [])
  const open = useCallback(
    (what: Opened) => {
      if (!worker.current) {
        worker.current = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' })
        worker.current.onerror = () => setError('The bench could not be started in this browser.')
        worker.current.onmessage = ({ data }: MessageEvent<Answer>) => {
          switch (data.kind) {
            case 'opened':
              setWaiting(false)
              setTrials(data.trials)
              setBench(data.bench)
              setShown({ displays: data.bench.displays, until: 0, running: false, share: 1, stop: '' })
              return worker.current?.postMessage({ kind: 'run', running: true } satisfies Request)
            case 'shown':
              clock.set(data.now, data.running)
              return setShown((was) => was && next(was, data))
            case 'checked':
              return checked.current?.(data.tried)
            case 'ended':
              return ended.current?.(data)
            case 'failed':
              checked.current?.()
              setWaiting(false)
              return setError(data.error)
          }
        }
      }
      setError('')
      setShown(undefined)
      setBench(undefined)
      setWaiting(true)
      worker.current.postMessage({ kind: 'open', ...what } satisfies Request)
    },
    [clock],
  )
  // end pauses the bench, and gives what was done by hand since power-on.
  const end = useCallback(
    () =>
      new Promise<{ length: number; done: Doing[] }>((told) => {
        ended.current = told
        worker.current?.postMessage({ kind: 'end' } satisfies Request)
      }),
    [],
  )
  // check marks the firmware on the trials that are there.
  const check = useCallback(
    (name: string, marks: boolean) =>
      new Promise<Tried | undefined>((told) => {
        checked.current = told
        worker.current?.postMessage({ kind: 'check', name, marks } satisfies Request)
      }),
    [],
  )
  useEffect(() => () => worker.current?.terminate(), [])
  return { open, say, end, check, bench, trials, shown, time: clock as Time, error, waiting }
}
