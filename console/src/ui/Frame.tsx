import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, Navigate, Outlet } from 'react-router'
import { Refused, get, remove } from '../api'
import type { Session } from '../types'

// The page around every page: who is signed in, and the way home.
export function Frame() {
  const queries = useQueryClient()
  const session = useQuery({
    queryKey: ['session'],
    staleTime: Infinity,
    queryFn: () =>
      get<Session>('/session').catch((e) => {
        if (e instanceof Refused && e.status === 401) return null
        throw e
      }),
  })
  if (session.data === null) return <Navigate to="/sign-in" replace />
  return (
    <div className="mx-auto max-w-[1200px] px-6">
      <header className="flex h-14 items-center justify-between border-b-2 border-ink">
        <Link to="/" className="text-lg font-semibold tracking-wide text-ink no-underline">
          Hemble
        </Link>
        {session.data && (
          <span className="text-sm text-slate">
            {session.data.name}
            <button
              type="button"
              className="quiet ml-2"
              onClick={() => remove('/session').finally(() => (queries.clear(), queries.setQueryData(['session'], null)))}
            >
              Sign out
            </button>
          </span>
        )}
      </header>
      <main>{session.error ? <Problem error={session.error} /> : session.data && <Outlet />}</main>
    </div>
  )
}

// What went wrong, where a page would have been.
export function Problem({ error }: { error: Error }) {
  return (
    <p role="alert" className="py-8 text-brick">
      ✗ {error.message}
    </p>
  )
}
