import { useSyncExternalStore } from 'react'

// Who this page is of. Each call says so, and the service refuses what another person's session would do with it: a browser has
// one session for all its tabs, and it may have changed in another one.

export type Trouble = 'expired' | 'other' // the session is over; or it is somebody else's now

let account = ''
let trouble: Trouble | undefined
const told = new Set<() => void>()
const channel = typeof BroadcastChannel === 'undefined' ? undefined : new BroadcastChannel('hemble-session')

function tell(t?: Trouble) {
  if (trouble === t) return
  trouble = t
  for (const f of told) f()
}

export const whose = () => account

// begin says who the page is of from now on; over says that it is nobody's.
export function begin(login: string) {
  if (account !== login) channel?.postMessage(login)
  account = login
  tell(undefined)
}

export const over = () => begin('')

// noticed takes what an answer of the service, or another tab, tells of the session.
export function noticed(t: Trouble) {
  if (account) tell(t)
}

channel?.addEventListener('message', (e: MessageEvent<string>) => {
  if (!account) return
  if (e.data === account) tell(undefined)
  else noticed(e.data ? 'other' : 'expired')
})

// useTrouble tells a page what is the matter with its session, if anything is.
export const useTrouble = () =>
  useSyncExternalStore(
    (f) => {
      told.add(f)
      return () => told.delete(f)
    },
    () => trouble,
  )
