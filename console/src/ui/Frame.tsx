import { type QueryClient, onlineManager, useQuery, useQueryClient } from '@tanstack/react-query'
import { type ReactNode, Suspense, useState, useSyncExternalStore } from 'react'
import { Link, NavLink, Navigate, Outlet, useLocation } from 'react-router'
import { Refused, base, get, remove } from '../api'
import { begin, over } from '../session'
import { Again } from './Again'
import type { Session } from '../types'

// useSession tells who is signed in: null for nobody, undefined while that is not known.
export function useSession() {
  return useQuery({
    queryKey: ['session'],
    staleTime: Infinity,
    queryFn: () =>
      get<Session>('/session')
        .then((s) => (begin(s.login), s))
        .catch((e) => {
          if (e instanceof Refused && e.status === 401) return null
          throw e
        }),
  })
}

// forget forgets everything that was known of somebody: the page then asks who is there.
export function forget(queries: QueryClient) {
  over()
  queries.setQueryData(['session'], null)
  queries.removeQueries({ predicate: (q) => q.queryKey[0] !== 'session' })
}

export const teaches = (s?: Session | null) => s?.role === 'admin' || s?.role === 'instructor'

// wide are pages that lay two things side by side.
const wide = /^\/exercises\/./

// The page around every page: who is signed in, and the way home.
export function Frame() {
  const queries = useQueryClient()
  const session = useSession()
  const here = useLocation()
  const { pathname } = here
  const [left, setLeft] = useState(false) // signed out: the next one begins at the front
  if (session.data === null) return <Navigate to="/sign-in" replace state={left ? undefined : { from: here }} />
  const me = session.data
  return (
    <div className={`mx-auto px-4 sm:px-6 ${wide.test(pathname) ? 'max-w-[1680px]' : 'max-w-[1200px]'}`}>
      <div id="skips">
        <Skip to="main">Skip to content</Skip>
      </div>
      <header className="flex min-h-14 flex-wrap items-center justify-between gap-x-6 border-b-2 border-ink">
        <nav aria-label="service" className="flex flex-wrap items-baseline gap-x-6">
          <Link to="/" className="text-lg font-semibold tracking-wide text-ink no-underline">
            Hemble
          </Link>
          {me && <Way to="/classes">Classes</Way>}
          {teaches(me) && <Way to="/exercises">Exercises</Way>}
          {me?.role === 'admin' && <Way to="/administration">Administration</Way>}
        </nav>
        {me && (
          <span className="text-sm text-slate">
            <Link to="/account">{me.name}</Link>
            <button
              type="button"
              className="quiet ml-2"
              onClick={() => {
                setLeft(true)
                remove('/session').finally(() => forget(queries)) // the page forgets who it was even if the service is away
              }}
            >
              Sign out
            </button>
          </span>
        )}
      </header>
      <Connection />
      {me && (
        <Again
          me={me}
          forget={() => {
            over()
            queries.clear()
            location.assign(base || '/')
          }}
        />
      )}
      <main id="main" tabIndex={-1} className="pb-16 outline-none">
        {session.error ? (
          <Problem error={session.error} />
        ) : (
          me && (
            <Suspense fallback={<Waiting />}>
              <Outlet />
            </Suspense>
          )
        )}
      </main>
    </div>
  )
}

// Skip leads the keyboard over what stands before a thing. The page has a base address, so that the fragment alone would lead elsewhere.
export function Skip({ to, children }: { to: string; children: ReactNode }) {
  const { pathname, search } = useLocation()
  return (
    <a
      href={`${base}${pathname}${search}#${to}`}
      className="sr-only focus:not-sr-only"
      onClick={(e) => {
        e.preventDefault()
        document.getElementById(to)?.focus()
      }}
    >
      {children}
    </a>
  )
}

// Connection says so while there is none: what is shown then may be old.
function Connection() {
  const online = useSyncExternalStore(
    (told) => onlineManager.subscribe(told),
    () => onlineManager.isOnline(),
  )
  return (
    <p role="status" className={online ? 'sr-only' : 'border-b border-line py-2 text-amber'}>
      {!online && '≈ You are offline. What you see may be out of date; it is refreshed when the connection is back.'}
    </p>
  )
}

function Way({ to, children }: { to: string; children: string }) {
  return (
    <NavLink
      to={to}
      className={({ isActive }) =>
        isActive ? 'text-ink underline decoration-2 underline-offset-6' : 'text-bottle no-underline hover:underline'
      }
    >
      {children}
    </NavLink>
  )
}

// Ways are the pages of one thing; where one is stands out by a line, not by colour alone. inside names one of them that
// has further pages, and where these are.
export function Ways({ label, list, inside }: { label: string; list: [string, string][]; inside?: [string, string] }) {
  const { pathname } = useLocation()
  const within = (to: string) => inside?.[0] === to && pathname.startsWith(inside[1])
  return (
    <nav aria-label={label} className="flex flex-wrap gap-x-6 border-b border-line">
      {list.map(([to, text]) => (
        <NavLink
          key={to}
          to={to}
          end
          aria-current={within(to) ? 'page' : undefined}
          className={({ isActive }) =>
            `-mb-px border-b-2 py-1 no-underline ${isActive || within(to) ? 'border-bottle text-ink' : 'border-transparent text-slate hover:text-ink'}`
          }
        >
          {text}
        </NavLink>
      ))}
    </nav>
  )
}

export function Waiting() {
  return (
    <p role="status" className="py-8 text-slate">
      Loading…
    </p>
  )
}

// What went wrong, where a page would have been.
export function Problem({ error }: { error: Error }) {
  return (
    <div role="alert" className="py-8">
      <p className="text-brick">✗ {error.message}</p>
      <button type="button" className="quiet mt-2 -ml-2" onClick={() => location.reload()}>
        Try again
      </button>
    </div>
  )
}
