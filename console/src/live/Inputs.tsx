import { useEffect, useRef, useState } from 'react'
import type { Control, Request } from './protocol'

interface Props {
  controls: Control[]
  say: (m: Request) => void
}

// Inputs are what a hand can do on the bench: by pointer, by touch, and each by its key.
export function Inputs({ controls, say }: Props) {
  const parts = [...new Set(controls.map((c) => c.part))]
  return (
    <ul className="divide-y divide-line border-y border-line">
      {parts.map((part) => (
        <li key={part} className="flex flex-wrap items-center gap-2 py-2">
          <span className="w-24 font-mono text-sm">{part}</span>
          {controls.map(
            (c, i) =>
              c.part === part && <Input key={i} control={c} say={(m) => say({ kind: 'do', control: i, ...m })} />,
          )}
        </li>
      ))}
    </ul>
  )
}

type Done = { release?: boolean; to?: string }

function Input({ control, say }: { control: Control; say: (d: Done) => void }) {
  if (control.verb === 'type') return <Typed say={say} control={control} />
  if (control.verb === 'set') return <Value say={say} control={control} />
  return <Contact say={say} control={control} />
}

// pressed reports whether a key of the keyboard is meant for the bench, and not for a field that is written in.
const meant = (e: KeyboardEvent, key: string) =>
  key !== '' &&
  e.key.toLowerCase() === key &&
  !e.ctrlKey &&
  !e.metaKey &&
  !e.altKey &&
  !(
    e.target instanceof HTMLInputElement ||
    e.target instanceof HTMLSelectElement ||
    e.target instanceof HTMLTextAreaElement
  )

function useKey(key: string, down: (e: KeyboardEvent) => void, up?: () => void) {
  const act = useRef({ down, up })
  useEffect(() => {
    act.current = { down, up }
  })
  useEffect(() => {
    const pressed = (e: KeyboardEvent) => {
      if (!meant(e, key) || e.repeat) return
      e.preventDefault()
      act.current.down(e)
    }
    const released = (e: KeyboardEvent) => {
      if (e.key.toLowerCase() === key) act.current.up?.()
    }
    window.addEventListener('keydown', pressed)
    window.addEventListener('keyup', released)
    return () => {
      window.removeEventListener('keydown', pressed)
      window.removeEventListener('keyup', released)
    }
  }, [key])
}

const Key = ({ name }: { name: string }) =>
  name ? <kbd className="border border-current px-1 font-mono text-xs opacity-70">{name}</kbd> : null

// Contact is held as long as a pointer or its key holds it; a knob turns by a detent.
function Contact({ control, say }: { control: Control; say: (d: Done) => void }) {
  const [held, setHeld] = useState(false)
  const hold = control.verb === 'hold'
  const down = () => {
    if (held) return
    if (hold) setHeld(true)
    say({})
  }
  const up = () => {
    if (!held) return
    setHeld(false)
    say({ release: true })
  }
  useKey(control.key, down, up)
  return (
    <button
      type="button"
      aria-pressed={hold ? held : undefined}
      aria-keyshortcuts={control.key || undefined}
      className={`flex min-w-16 touch-none items-center justify-center gap-2 rounded-full border px-4 py-1 select-none ${held ? 'border-bottle bg-bottle text-paper' : 'border-slate'}`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId)
        down()
      }}
      onPointerUp={up}
      onPointerCancel={up}
      onKeyDown={(e) => {
        if ((e.key === ' ' || e.key === 'Enter') && !e.repeat) {
          e.preventDefault()
          down()
        }
      }}
      onKeyUp={(e) => (e.key === ' ' || e.key === 'Enter') && up()}
      onBlur={up}
    >
      {control.label || (hold ? 'press' : 'turn')} <Key name={control.key} />
    </button>
  )
}

// Value moves through values: a switch by its name, others by a slide.
function Value({ control, say }: { control: Control; say: (d: Done) => void }) {
  const values = control.values ?? []
  const [at, setAt] = useState(control.at)
  const put = (i: number) => {
    const to = Math.max(0, Math.min(values.length - 1, i))
    setAt(to)
    say({ to: values[to] })
  }
  useKey(control.key, (e) => put(values.length === 2 ? 1 - at : e.shiftKey ? at - 1 : at + 1))
  const name = `${control.part} ${control.label}`.trim()
  return (
    <label className="flex items-center gap-2">
      {values.length > 2 && (
        <input
          type="range"
          className="w-40 accent-bottle"
          min={0}
          max={values.length - 1}
          value={at}
          aria-label={name}
          aria-valuetext={values[at]}
          onChange={(e) => put(Number(e.target.value))}
        />
      )}
      {values.length === 2 && (
        <button
          type="button"
          role="switch"
          aria-checked={at === 1}
          aria-label={name}
          className={`rounded-full border px-4 py-1 ${at === 1 ? 'border-bottle bg-bottle text-paper' : 'border-slate'}`}
          onClick={() => put(1 - at)}
        >
          {values[at]}
        </button>
      )}
      {values.length > 2 && <output className="w-16 font-mono text-sm">{values[at]}</output>}
      <Key name={control.key} />
    </label>
  )
}

// Typed is a line for a terminal.
function Typed({ control, say }: { control: Control; say: (d: Done) => void }) {
  const [text, setText] = useState('')
  return (
    <form
      className="flex grow items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        say({ to: text + '\n' })
        setText('')
      }}
    >
      <input
        className="field max-w-80 font-mono"
        aria-label={`type to ${control.part}`}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <button type="submit" className="quiet">
        Send
      </button>
    </form>
  )
}
