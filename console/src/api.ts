// Calls of the API. Times of sheets and reels travel as picoseconds, those of people as RFC 3339.

import { noticed, whose } from './session'
import { local } from './time'

export class Refused extends Error {
  constructor(
    public status: number,
    public code: string,
    message: string,
    public mistakes: { line: number; column: number; text: string; warning?: boolean }[] = [],
  ) {
    super(message)
  }
}

// Where the service is: the page says so, whatever path a proxy shows it under.
export const base = new URL(document.baseURI).pathname.replace(/\/$/, '')

export const address = (path: string) => `${base}/api/v1${path}`

// part makes one part of an address of what may have any characters.
export const part = encodeURIComponent

async function ask(path: string, init?: RequestInit): Promise<Response> {
  const headers = new Headers(init?.headers)
  if (whose()) headers.set('Hemble-Account', whose())
  try {
    return await fetch(address(path), { ...init, headers })
  } catch {
    throw new Refused(0, 'offline', 'the service does not answer; is this machine still on the network?')
  }
}

async function call<T>(path: string, init?: RequestInit): Promise<T> {
  return (await tagged<T>(path, init)).body
}

// tagged gives an answer with the tag of what was read, for a change that is to be refused if somebody else was faster.
export async function tagged<T>(path: string, init?: RequestInit): Promise<{ body: T; tag: string }> {
  const answer = await ask(path, init)
  if (answer.status === 204) return { body: undefined as T, tag: '' }
  const body = await answer.json().catch(() => null)
  if (answer.status === 401) noticed('expired')
  if (answer.status === 409 && body?.type === 'hemble:other-account') noticed('other')
  if (!answer.ok)
    throw new Refused(
      answer.status,
      String(body?.type ?? '').replace('hemble:', ''),
      local(body?.detail ?? `the service answered ${answer.status}`),
      body?.mistakes,
    )
  return { body: body as T, tag: answer.headers.get('ETag') ?? '' }
}

const json = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { 'Content-Type': 'application/json' },
  body: JSON.stringify(body),
})

export const get = <T>(path: string) => call<T>(path)
export const post = <T>(path: string, body: unknown = {}) => call<T>(path, json('POST', body))
export const put = <T>(path: string, body: unknown) => call<T>(path, json('PUT', body))
export const patch = <T>(path: string, body: unknown) => call<T>(path, json('PATCH', body))
export const remove = (path: string) => call<void>(path, { method: 'DELETE' })

// send sends a text or a file as it is.
export const send = <T>(
  method: string,
  path: string,
  type: string,
  body: BodyInit,
  headers: Record<string, string> = {},
) => call<T>(path, { method, headers: { 'Content-Type': type, ...headers }, body })

// form sends a form with values and files.
export function form<T>(path: string, values: Record<string, string>, files: [string, File][]) {
  const data = new FormData()
  for (const [name, value] of Object.entries(values)) if (value) data.append(name, value)
  for (const [name, file] of files) data.append(name, file)
  return call<T>(path, { method: 'POST', body: data })
}
