import { useEffect, useRef } from 'react'
import type { Submission } from './types'

// useChanges listens to the changes of submissions, of one exercise or (empty) of all. heard gets the
// changed submission, or nothing where the stream broke and anything may have changed.
export function useChanges(exercise: string, heard: (s?: Submission) => void) {
  const latest = useRef(heard)
  latest.current = heard
  useEffect(() => {
    const source = new EventSource(`/api/v1/events?exercise=${encodeURIComponent(exercise)}`)
    let opened = false
    source.onopen = () => {
      if (opened) latest.current()
      opened = true
    }
    source.addEventListener('submission', (e) => latest.current(JSON.parse((e as MessageEvent<string>).data)))
    return () => source.close()
  }, [exercise])
}
