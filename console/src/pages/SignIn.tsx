import { useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { useNavigate } from 'react-router'
import { post } from '../api'

export function SignIn() {
  const [problem, setProblem] = useState('')
  const [busy, setBusy] = useState(false)
  const queries = useQueryClient()
  const navigate = useNavigate()

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    setBusy(true)
    try {
      queries.setQueryData(['session'], await post('/session', { login: form.get('login'), password: form.get('password') }))
      navigate('/')
    } catch (e) {
      setProblem((e as Error).message)
    } finally {
      setBusy(false)
    }
  }

  return (
    <main className="mx-auto flex min-h-screen max-w-[360px] flex-col justify-center px-6 pb-32">
      <h1 className="border-b-2 border-ink pb-2 text-2xl leading-10 font-semibold">Hemble</h1>
      <p className="py-4 text-slate">What did the display show, and is it what was wanted?</p>
      <form onSubmit={submit} className="flex flex-col gap-4">
        <label>
          <span className="text-sm text-slate">Login</span>
          <input name="login" className="field" autoCapitalize="none" defaultValue="instructor" autoComplete="username" required />
        </label>
        <label>
          <span className="text-sm text-slate">Password</span>
          <input name="password" type="password" className="field" autoComplete="current-password" autoFocus required />
        </label>
        <p role="alert" className="min-h-6 text-brick">
          {problem && `✗ ${problem}`}
        </p>
        <button type="submit" className="plate self-start" disabled={busy}>
          Sign in
        </button>
      </form>
    </main>
  )
}
