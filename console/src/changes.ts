import { useEffect, useRef } from 'react'
import { address, part } from './api'
import type { Submission } from './types'

type Heard = (s?: Submission) => void

// A browser holds only six connections to one service that speaks HTTP/1.1, over all its pages: so a page has one stream,
// whoever listens to it, and has it only while it can be seen.
class Stream {
  private source?: EventSource
  private missed = false
  readonly listeners = new Set<Heard>()

  constructor(private className: string) {
    document.addEventListener('visibilitychange', this.turn)
    addEventListener('pagehide', this.stop)
    this.turn()
  }

  close() {
    document.removeEventListener('visibilitychange', this.turn)
    removeEventListener('pagehide', this.stop)
    this.stop()
  }

  private stop = () => {
    this.source?.close()
    this.source = undefined
    this.missed = true
  }

  private turn = () => {
    if (document.hidden) return this.stop()
    if (this.source) return
    if (this.missed) this.tell() // what happened while nobody looked
    this.source = new EventSource(address(`/classes/${part(this.className)}/events`))
    this.source.addEventListener('reset', () => this.tell())
    this.source.addEventListener('submission', (e) => this.tell(JSON.parse((e as MessageEvent<string>).data)))
  }

  private tell(s?: Submission) {
    for (const heard of this.listeners) heard(s)
  }
}

const streams = new Map<string, Stream>()

// useChanges listens to the changes of a class's submissions. heard gets the changed submission, or nothing where something
// was missed and anything may have changed. The browser resumes a broken stream by itself, from the last event it saw.
export function useChanges(className: string | undefined, heard: Heard) {
  const latest = useRef(heard)
  useEffect(() => {
    latest.current = heard
  })
  useEffect(() => {
    if (!className) return
    const stream = streams.get(className) ?? new Stream(className)
    streams.set(className, stream)
    const own: Heard = (s) => latest.current(s)
    stream.listeners.add(own)
    return () => {
      stream.listeners.delete(own)
      if (stream.listeners.size) return
      stream.close()
      streams.delete(className)
    }
  }, [className])
}
