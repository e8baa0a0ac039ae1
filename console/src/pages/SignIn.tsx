import { useQuery } from '@tanstack/react-query'
import { Link, Navigate } from 'react-router'
import { get } from '../api'
import { Field } from '../ui/fields'
import { Gate } from '../ui/Gate'

export function SignIn() {
  const setup = useQuery({ queryKey: ['setup'], queryFn: () => get<{ needed: boolean }>('/setup') })
  if (setup.data?.needed) return <Navigate to="/setup" replace />
  return (
    <Gate
      text="What did the display show, and is it what was expected?"
      action="Sign in"
      path="/session"
      body={(f) => ({ login: f.get('login'), password: f.get('password') })}
      below={
        <p className="pt-8 text-sm text-slate">
          Do you have a join code? <Link to="/join">Join your class</Link>.
        </p>
      }
    >
      <Field label="Login" name="login" autoCapitalize="none" autoComplete="username" autoFocus required />
      <Field label="Password" name="password" type="password" autoComplete="current-password" required />
    </Gate>
  )
}
