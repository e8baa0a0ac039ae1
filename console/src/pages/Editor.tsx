import { type CompletionContext, autocompletion } from '@codemirror/autocomplete'
import { yaml } from '@codemirror/lang-yaml'
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
import { type Diagnostic, linter, lintGutter } from '@codemirror/lint'
import { tags } from '@lezer/highlight'
import { EditorView, basicSetup } from 'codemirror'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { Refused, address, get, part, send } from '../api'
import { Partner } from '../editor/Partner'
import { type Schema, parts, place, words } from '../editor/completion'
import starter from '../editor/starter.yaml?raw'
import type { Checked, Exercise } from '../types'
import { Problem, Waiting } from '../ui/Frame'

// Editor is an exercise's text, with its problems at their lines while it is written.
export default function Editor() {
  const { name } = useParams()
  const { data, error } = useQuery({ queryKey: ['exercise', name], enabled: !!name, queryFn: () => get<Exercise>(`/exercises/${part(name!)}`) })
  if (error) return <Problem error={error} />
  if (name && !data) return <Waiting />
  return <Text key={data?.revision} exercise={data} />
}

// completion offers what the schema has at a place, the parts of the bench, and the pins of the chip.
function completion(schema: Schema, pins: () => string[]) {
  return (context: CompletionContext) => {
    const text = context.state.doc.toString()
    const at = place(text, context.pos)
    if (at.from === context.pos && !context.explicit && !/[ {[,]$/.test(text.slice(0, context.pos))) return null
    const options = words(schema, at, parts(text), pins()).map((w) => ({ label: w.label, info: w.info, type: w.value ? 'enum' : 'property', apply: w.value ? undefined : `${w.label}: ` }))
    return options.length ? { from: at.from, options, validFor: /^[\w.-]*$/ } : null
  }
}

// firmware tells files of a folder that can be tried.
const firmware = /\.(hex|elf|c|cpp|zip|S)$/i

function Text({ exercise }: { exercise?: Exercise }) {
  const box = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView>(null)
  const queries = useQueryClient()
  const navigate = useNavigate()
  const schema = useQuery({ queryKey: ['schema'], staleTime: Infinity, queryFn: () => get<Schema>('/schema') })
  const [checked, setChecked] = useState<Checked>()
  const [told, setTold] = useState<[boolean, string]>([true, ''])

  useEffect(() => {
    if (!box.current || !schema.data) return
    const known = { pins: [] as string[] }
    const complete = completion(schema.data, () => known.pins)
    const problems = linter(
      async (v): Promise<Diagnostic[]> => {
        const found = await send<Checked>('POST', '/check', 'application/yaml', v.state.doc.toString()).catch(() => undefined)
        if (!found) return []
        setChecked((was) => (found.schematic ? found : { ...found, schematic: was?.schematic, wires: was?.wires })) // the bench as it was last valid
        if (found.schematic) known.pins = ['VCC', 'GND', ...new Set(found.schematic.texts.map((t) => t.text).filter((t) => /^P[A-Z]\d$/.test(t)))].sort()
        return found.mistakes.map((m) => {
          const line = v.state.doc.line(Math.max(1, Math.min(v.state.doc.lines, m.line)))
          const from = Math.min(line.to, line.from + Math.max(0, m.column - 1))
          return { from, to: Math.max(from, line.to), severity: m.warning ? 'warning' : 'error', message: m.text }
        })
      },
      { delay: 300 },
    )
    view.current = new EditorView({
      doc: exercise?.text ?? starter,
      parent: box.current,
      extensions: [basicSetup, yaml(), autocompletion({ override: [complete] }), problems, lintGutter(), syntaxHighlighting(ink), EditorView.contentAttributes.of({ 'aria-label': 'exercise file', tabindex: '0' }), look],
    })
    return () => view.current?.destroy()
  }, [schema.data, exercise])

  async function keep() {
    const text = view.current!.state.doc.toString()
    const name = exercise?.name ?? /^name:\s*(\S+)/m.exec(text)?.[1] ?? ''
    try {
      const x = await send<Exercise>('PUT', `/exercises/${part(name)}`, 'application/yaml', text)
      setTold([true, `✓ kept as revision ${x.revision}`])
      queries.invalidateQueries({ queryKey: ['exercises'] })
      if (!exercise) navigate(`/exercises/${x.name}`)
    } catch (e) {
      const problem = e as Refused
      setTold([false, `✗ ${problem.message}`])
    }
  }

  const wrong = checked?.mistakes.filter((m) => !m.warning).length ?? 0
  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-4 pt-8 pb-4">
        <h1 className="text-xl">{exercise?.title ?? 'A new exercise'}</h1>
        <span className="flex flex-wrap items-center gap-4">
          <span role="status" className={told[0] ? 'text-moss' : 'text-brick'}>
            {told[1]}
          </span>
          {exercise && (
            <a className="quiet no-underline" href={address(`/exercises/${part(exercise.name)}/folder`)}>
              Folder as zip
            </a>
          )}
          <button type="button" className="plate" onClick={keep} disabled={wrong > 0}>
            Keep {exercise ? 'as a new revision' : ''}
          </button>
        </span>
      </div>
      <p aria-live="polite" className={wrong ? 'text-brick' : 'text-slate'}>
        {!checked ? 'Checking…' : wrong ? `✗ ${wrong} problems; the first in line ${checked.mistakes.find((m) => !m.warning)!.line}` : `✓ valid${checked.mistakes.length ? `, with ${checked.mistakes.length} remarks` : ''}`}
        {exercise && <span className="text-slate"> · revision {exercise.revision}; open to {exercise.classes === 1 ? 'one class' : `${exercise.classes} classes`}</span>}
      </p>
      <div className="grid gap-8 pt-2 lg:grid-cols-2">
        <div ref={box} className="min-w-0 self-start border border-line" />
        <Partner
          text={() => view.current?.state.doc.toString() ?? ''}
          checked={checked}
          exercise={exercise?.name}
          references={exercise?.files?.filter((f) => firmware.test(f)) ?? []}
          replace={(text) => view.current?.dispatch({ changes: { from: 0, to: view.current.state.doc.length, insert: text } })}
        />
      </div>
      {!!checked?.mistakes.length && (
        <ul className="pt-4 text-sm">
          {checked.mistakes.map((m, i) => (
            <li key={i} className="border-t border-line py-1">
              <button
                type="button"
                className="quiet font-mono"
                onClick={() => {
                  const v = view.current!
                  const line = v.state.doc.line(Math.max(1, Math.min(v.state.doc.lines, m.line)))
                  v.dispatch({ selection: { anchor: Math.min(line.to, line.from + m.column - 1) }, scrollIntoView: true })
                  v.focus()
                }}
              >
                line {m.line}
              </button>{' '}
              <span className={m.warning ? 'text-amber' : 'text-brick'}>{m.warning ? '≈' : '✗'}</span> {m.text}
            </li>
          ))}
        </ul>
      )}
      <p className="pt-4 text-sm">
        <Link to="/exercises">All exercises</Link>
      </p>
    </>
  )
}

// The page's own inks: keys, texts, remarks.
const ink = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: 'var(--bottle)' },
  { tag: tags.string, color: 'var(--amber)' },
  { tag: tags.comment, color: 'var(--slate)', fontStyle: 'italic' },
  { tag: [tags.punctuation, tags.separator, tags.brace, tags.squareBracket], color: 'var(--slate)' },
])

const look = EditorView.theme({
  '&': { maxHeight: '68vh', fontSize: '13px', color: 'var(--ink)' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '20px' },
  '.cm-gutters': { background: 'var(--paper)', color: 'var(--slate)', borderRight: '1px solid var(--line)' },
  '.cm-activeLine, .cm-activeLineGutter': { background: 'color-mix(in srgb, var(--line) 35%, transparent)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': { background: 'color-mix(in srgb, var(--bottle) 25%, transparent) !important' },
  '.cm-tooltip': { background: 'var(--paper)', border: '1px solid var(--line)', color: 'var(--ink)' },
})
