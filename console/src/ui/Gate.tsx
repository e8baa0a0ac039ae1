import { useQueryClient } from '@tanstack/react-query'
import { type FormEvent, type ReactNode, useState } from 'react'
import { type Location, useLocation, useNavigate } from 'react-router'
import { post } from '../api'
import { begin } from '../session'
import type { Session } from '../types'

interface Props {
  text: string
  action: string
  path: string
  body: (fields: FormData) => unknown
  children: ReactNode
  below?: ReactNode
}

// Gate is a page in front of the others: a form that begins a session.
export function Gate({ text, action, path, body, children, below }: Props) {
  const [problem, setProblem] = useState('')
  const [busy, setBusy] = useState(false)
  const queries = useQueryClient()
  const navigate = useNavigate()
  const from = (useLocation().state as { from?: Location } | null)?.from

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const fields = new FormData(event.currentTarget)
    setBusy(true)
    try {
      const session = await post<Session>(path, body(fields))
      queries.clear()
      begin(session.login)
      queries.setQueryData(['session'], session)
      navigate(from ?? '/', { replace: !!from }) // the page that was asked for before
    } catch (e) {
      setProblem((e as Error).message)
    } finally {
      setBusy(false)
    }
  }

  return (
    <main className="mx-auto flex min-h-screen max-w-[360px] flex-col justify-center px-6 pb-32">
      <h1 className="border-b-2 border-ink pb-2 text-2xl leading-10 font-semibold">Hemble</h1>
      <p className="py-4 text-slate">{text}</p>
      <form onSubmit={submit} className="flex flex-col gap-4">
        {children}
        <p role="alert" className="min-h-6 text-brick">
          {problem && `✗ ${problem}`}
        </p>
        <button type="submit" className="plate self-start" disabled={busy}>
          {action}
        </button>
      </form>
      {below}
    </main>
  )
}
