import { useCallback, useRef, useState } from 'react'
import { whose } from './session'

// What somebody has written and not sent yet is kept in the browser, for each person and place, until it is sent or dropped.

const at = (key: string) => `hemble-draft:${whose()}:${key}`

export interface Draft<T> {
  value: T
  at: number // when it was written
}

export function draftOf<T>(key: string): Draft<T> | undefined {
  try {
    const text = localStorage.getItem(at(key))
    return text ? (JSON.parse(text) as Draft<T>) : undefined
  } catch {
    return undefined // there is no store, or somebody else wrote into it
  }
}

export function keepDraft<T>(key: string, value: T) {
  try {
    localStorage.setItem(at(key), JSON.stringify({ value, at: Date.now() }))
  } catch {
    // a full or forbidden store: what is written stays on the page, as before
  }
}

export function dropDraft(key: string) {
  try {
    localStorage.removeItem(at(key))
  } catch {
    // nothing was kept
  }
}

type Fields = Record<string, string[]>

// written are the fields of a form that somebody may have written into: neither files nor passwords.
function written(form: HTMLFormElement): Fields {
  const out: Fields = {}
  for (const e of form.elements) {
    if (
      !(e instanceof HTMLInputElement || e instanceof HTMLTextAreaElement || e instanceof HTMLSelectElement) ||
      !e.name ||
      e.type === 'password' ||
      e.type === 'file'
    )
      continue
    if (e instanceof HTMLInputElement && (e.type === 'checkbox' || e.type === 'radio')) {
      out[e.name] ??= []
      if (e.checked) out[e.name].push(e.value)
    } else out[e.name] = [...(out[e.name] ?? []), e.value]
  }
  return out
}

// fill puts what was written into a form, as if it were typed, and reports whether anything is different now.
function fill(form: HTMLFormElement, fields: Fields) {
  let changed = false
  const seen: Record<string, number> = {}
  for (const e of form.elements) {
    if (
      !(e instanceof HTMLInputElement || e instanceof HTMLTextAreaElement || e instanceof HTMLSelectElement) ||
      !fields[e.name] ||
      e.type === 'password' ||
      e.type === 'file'
    )
      continue
    if (e instanceof HTMLInputElement && (e.type === 'checkbox' || e.type === 'radio')) {
      const on = fields[e.name].includes(e.value)
      if (e.checked === on) continue
      e.click()
      changed = true
      continue
    }
    const value = fields[e.name][(seen[e.name] = (seen[e.name] ?? -1) + 1)]
    if (value === undefined || e.value === value) continue
    Object.getOwnPropertyDescriptor(Object.getPrototypeOf(e), 'value')?.set?.call(e, value)
    e.dispatchEvent(new Event(e instanceof HTMLSelectElement ? 'change' : 'input', { bubbles: true }))
    changed = true
  }
  return changed
}

// useDraft keeps what is written into a form, and puts it in again where the form comes back; restored tells that it did.
export function useDraft(key: string) {
  const [restored, setRestored] = useState(false)
  const current = useRef<HTMLFormElement>(null)
  const listen = useRef<() => void>(undefined)
  const form = useCallback(
    (f: HTMLFormElement | null) => {
      if (current.current && listen.current) current.current.removeEventListener('input', listen.current)
      current.current = f
      if (!f) return
      const draft = draftOf<Fields>(key)
      setRestored(draft ? fill(f, draft.value) : false)
      listen.current = () => keepDraft(key, written(f))
      f.addEventListener('input', listen.current)
    },
    [key],
  )
  const drop = useCallback(() => (dropDraft(key), setRestored(false)), [key])
  return { form, restored, drop }
}
