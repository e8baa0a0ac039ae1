import { useEffect, useRef } from 'react'
import { address, part } from './api'
import type { Submission } from './types'

// useChanges listens to the changes of a class's submissions. heard gets the changed submission, or nothing where the
// stream broke and anything may have changed. The browser resumes a broken stream by itself, from the last event it saw.
export function useChanges(className: string | undefined, heard: (s?: Submission) => void) {
  const latest = useRef(heard)
  latest.current = heard
  useEffect(() => {
    if (!className) return
    const source = new EventSource(address(`/classes/${part(className)}/events`))
    source.addEventListener('reset', () => latest.current())
    source.addEventListener('submission', (e) => latest.current(JSON.parse((e as MessageEvent<string>).data)))
    return () => source.close()
  }, [className])
}
