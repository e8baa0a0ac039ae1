import { useQuery } from '@tanstack/react-query'
import { useLocation, useSearchParams } from 'react-router'
import { Refused, get } from '../api'
import type { Session } from '../types'
import { Field, NewPassword } from '../ui/fields'
import { Gate } from '../ui/Gate'

// The ways in that are gone through once: setting a service up, a one-time link, a class's code.

export function SetUp() {
  const token = useLocation().hash.slice(1)
  return (
    <Gate
      text={
        token
          ? 'This service is new. Create the first account: it is an administrator and can teach.'
          : 'This service is new. Open the set-up link that it printed on start.'
      }
      action="Set up"
      path="/setup"
      body={(f) => ({ token, login: f.get('login'), name: f.get('name'), password: f.get('password') })}
    >
      <Field
        label="Login"
        name="login"
        autoCapitalize="none"
        autoComplete="username"
        required
        pattern="[A-Za-z0-9][A-Za-z0-9._@+\-]*"
      />
      <Field label="Your name, as students see it" name="name" autoComplete="name" required maxLength={120} />
      <NewPassword label="Password" name="password" required />
    </Gate>
  )
}

export function OneTimeLink() {
  const token = useLocation().hash.slice(1)
  return (
    <Gate
      text="This link signs you in once. Choose a password for later."
      action="Sign in"
      path="/link"
      body={(f) => ({ token, password: f.get('password') || undefined })}
    >
      <NewPassword
        label="New password"
        help="at least 8 characters; leave it empty to keep yours"
        name="password"
        autoFocus
      />
    </Gate>
  )
}

export function Join() {
  const [search] = useSearchParams()
  const session = useQuery({
    queryKey: ['session'],
    queryFn: () =>
      get<Session>('/session').catch((e) => {
        if (e instanceof Refused && e.status === 401) return null
        throw e
      }),
  })
  const known = session.data
  return (
    <Gate
      text={known ? `Join a class as ${known.name}.` : 'Join your class with the code from your instructor.'}
      action="Join"
      path="/join"
      body={(f) =>
        known
          ? { code: f.get('code') }
          : { code: f.get('code'), login: f.get('login'), name: f.get('name'), password: f.get('password') }
      }
    >
      <Field
        label="Join code"
        name="code"
        className="field font-mono uppercase"
        defaultValue={search.get('code') ?? ''}
        required
        autoFocus
      />
      {!known && (
        <>
          <Field
            label="Login"
            help="letters and digits; you will sign in with it"
            name="login"
            autoCapitalize="none"
            autoComplete="username"
            required
          />
          <Field label="Your name" name="name" autoComplete="name" required maxLength={120} />
          <NewPassword label="Password" name="password" required />
        </>
      )}
    </Gate>
  )
}
