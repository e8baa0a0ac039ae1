import * as Radix from '@radix-ui/react-dialog'
import { useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { useNavigate } from 'react-router'
import { post } from '../api'
import { begin, useTrouble } from '../session'
import type { Session } from '../types'
import { Field } from './fields'

// Again stands over a page whose session is over, or somebody else's: signing in continues where one was, with all that was written.
export function Again({ me, forget }: { me: Session; forget: () => void }) {
  const trouble = useTrouble()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const [problem, setProblem] = useState('')
  if (!trouble) return null

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const f = new FormData(event.currentTarget)
    try {
      const session = await post<Session>('/session', { login: f.get('login'), password: f.get('password') })
      begin(session.login)
      if (session.login !== me.login) {
        queries.clear()
        queries.setQueryData(['session'], session)
        navigate('/')
        return
      }
      queries.setQueryData(['session'], session)
      await queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'session' })
    } catch (e) {
      setProblem((e as Error).message)
    }
  }
  return (
    <Radix.Root open>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Radix.Content
          className="fixed top-[8vh] left-1/2 z-50 w-[420px] max-w-[94vw] -translate-x-1/2 border-2 border-ink bg-paper p-6"
          onEscapeKeyDown={(e) => e.preventDefault()}
          onPointerDownOutside={(e) => e.preventDefault()}
        >
          <Radix.Title className="text-lg">
            {trouble === 'expired' ? 'Sign in again' : 'Somebody else is signed in'}
          </Radix.Title>
          <Radix.Description className="pb-4 text-sm text-slate">
            {trouble === 'expired'
              ? 'Your session has ended. Nothing you wrote is lost: sign in to continue.'
              : `Another person has signed in on another tab of this browser. This page belongs to ${me.name}; nothing on it was done in the other name. Sign in as ${me.login} to continue here.`}
          </Radix.Description>
          <form onSubmit={submit} className="flex flex-col gap-4">
            <Field
              label="Login"
              name="login"
              defaultValue={me.login}
              autoCapitalize="none"
              autoComplete="username"
              required
            />
            <Field
              label="Password"
              name="password"
              type="password"
              autoComplete="current-password"
              autoFocus
              required
            />
            <p role="alert" className="min-h-6 text-brick">
              {problem && `✗ ${problem}`}
            </p>
            <div className="flex justify-end gap-2">
              <button type="button" className="quiet" onClick={forget}>
                {trouble === 'expired' ? 'Leave' : 'Continue as the other person'}
              </button>
              <button type="submit" className="plate">
                Sign in
              </button>
            </div>
          </form>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
