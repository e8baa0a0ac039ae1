import { useCallback, useEffect, useRef, useState } from 'react'
import type { Tried } from '../types'
import type { Answer, Description, Doing, Request } from './protocol'

export type Shown = Extract<Answer, { kind: 'shown' }>

type Opened = Omit<Extract<Request, { kind: 'open' }>, 'kind'>

// useBench has a bench simulated in a worker of its own, from when it is first opened until the page goes.
export function useBench() {
  const worker = useRef<Worker>(undefined)
  const [bench, setBench] = useState<Description>()
  const [trials, setTrials] = useState<string[]>([])
  const [shown, setShown] = useState<Shown>()
  const [error, setError] = useState('')
  const [waiting, setWaiting] = useState(false)
  const checked = useRef<(tried?: Tried) => void>(undefined)
  const ended = useRef<(end: { length: number; done: Doing[] }) => void>(undefined)

  const say = useCallback((m: Request) => worker.current?.postMessage(m), [])
  const open = useCallback((what: Opened) => {
    if (!worker.current) {
      worker.current = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' })
      worker.current.onerror = () => setError('The bench could not be started in this browser.')
      worker.current.onmessage = ({ data }: MessageEvent<Answer>) => {
        switch (data.kind) {
          case 'opened':
            setWaiting(false)
            setTrials(data.trials)
            setBench(data.bench)
            return worker.current?.postMessage({ kind: 'run', running: true } satisfies Request)
          case 'shown':
            return setShown((was) => ({
              ...data,
              displays: data.displays ?? was?.displays,
              serial: data.serial ?? was?.serial,
              traces: data.traces ?? was?.traces,
              until: data.until ?? was?.until,
            }))
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
  }, [])
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
  return { open, say, end, check, bench, trials, shown, error, waiting }
}
