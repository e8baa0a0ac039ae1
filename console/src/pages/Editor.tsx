import { type CompletionContext, autocompletion } from '@codemirror/autocomplete'
import { yaml } from '@codemirror/lang-yaml'
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
import { type Diagnostic, linter, lintGutter } from '@codemirror/lint'
import { tags } from '@lezer/highlight'
import { EditorView, basicSetup } from 'codemirror'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import * as Radix from '@radix-ui/react-dialog'
import { type Blocker, Link, useBlocker, useLocation, useNavigate, useParams } from 'react-router'
import { Refused, address, get, part, send, tagged } from '../api'
import { draftOf, dropDraft, keepDraft } from '../draft'
import { Partner } from '../editor/Partner'
import { type Schema, parts, place, words } from '../editor/completion'
import { Changes, Saved } from '../editor/Saved'
import { inserted } from '../editor/insert'
import starter from '../editor/starter.yaml?raw'
import { when } from '../time'
import type { Checked, Compared, Exercise } from '../types'
import { Problem, Waiting } from '../ui/Frame'

// Editor is an exercise's text, with its problems at their lines while it is written.
export default function Editor() {
  const { name } = useParams()
  const { data, error } = useQuery({
    queryKey: ['exercise', name],
    enabled: !!name,
    refetchOnWindowFocus: false,
    queryFn: () => tagged<Exercise>(`/exercises/${part(name!)}`),
  })
  if (error) return <Problem error={error} />
  if (name && !data) return <Waiting />
  return <Text key={name} exercise={data?.body} tag={data?.tag ?? ''} />
}

// completion offers what the schema has at a place, the parts of the bench, and the pins of the chip.
function completion(schema: Schema, pins: () => string[]) {
  return (context: CompletionContext) => {
    const text = context.state.doc.toString()
    const at = place(text, context.pos)
    if (at.from === context.pos && !context.explicit && !/[ {[,]$/.test(text.slice(0, context.pos))) return null
    const options = words(schema, at, parts(text), pins()).map((w) => ({
      label: w.label,
      info: w.info,
      type: w.value ? 'enum' : 'property',
      apply: w.value ? undefined : `${w.label}: `,
    }))
    return options.length ? { from: at.from, options, validFor: /^[\w.-]*$/ } : null
  }
}

// firmware tells files of a folder that can be tried.
const firmware = /\.(hex|elf|c|cpp|zip|S)$/i

// Written is a text that was not saved, and the revision that it was written from.
interface Written {
  text: string
  revision?: number
}

function Text({ exercise: read, tag: readTag }: { exercise?: Exercise; tag: string }) {
  const [exercise, setExercise] = useState(read)
  const [tag, setTag] = useState(readTag)
  const saved = exercise?.text ?? starter
  const key = `exercise ${exercise?.name ?? ''}`
  const [draft, setDraft] = useState(() => {
    const d = draftOf<Written>(key)
    return d && d.value.text !== saved ? d : undefined
  })
  const [text, setText] = useState(saved)
  const [clash, setClash] = useState<Compared>()
  const [done, setDone] = useState<Exercise>()
  const dirty = text !== saved
  const box = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView>(null)
  const queries = useQueryClient()
  const navigate = useNavigate()
  const state = useLocation().state as { done?: Exercise } | null
  const schema = useQuery({ queryKey: ['schema'], staleTime: Infinity, queryFn: () => get<Schema>('/schema') })
  const [checked, setChecked] = useState<Checked>()
  const [told, setTold] = useState<[boolean, string]>([
    true,
    state?.done ? `✓ saved as revision ${state.done.revision}` : '',
  ])

  useEffect(() => {
    if (!box.current || !schema.data) return
    const known = { pins: [] as string[] }
    const complete = completion(schema.data, () => known.pins)
    const problems = linter(
      async (v): Promise<Diagnostic[]> => {
        const found = await send<Checked>('POST', '/check', 'application/yaml', v.state.doc.toString()).catch(
          () => undefined,
        )
        if (!found) return []
        setChecked((was) => (found.schematic ? found : { ...found, schematic: was?.schematic, wires: was?.wires })) // the bench as it was last valid
        if (found.schematic)
          known.pins = [
            'VCC',
            'GND',
            ...new Set(found.schematic.texts.map((t) => t.text).filter((t) => /^P[A-Z]\d$/.test(t))),
          ].sort()
        return found.mistakes.map((m) => {
          const line = v.state.doc.line(Math.max(1, Math.min(v.state.doc.lines, m.line)))
          const from = Math.min(line.to, line.from + Math.max(0, m.column - 1))
          return { from, to: Math.max(from, line.to), severity: m.warning ? 'warning' : 'error', message: m.text }
        })
      },
      { delay: 300 },
    )
    view.current = new EditorView({
      doc: saved,
      parent: box.current,
      extensions: [
        EditorView.updateListener.of((u) => u.docChanged && setText(u.state.doc.toString())),
        basicSetup,
        yaml(),
        autocompletion({ override: [complete] }),
        problems,
        lintGutter(),
        syntaxHighlighting(ink),
        EditorView.contentAttributes.of({ 'aria-label': 'exercise file', tabindex: '0' }),
        look,
      ],
    })
    return () => view.current?.destroy()
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [schema.data])

  useEffect(() => {
    if (!dirty || draft) return
    const soon = setTimeout(() => keepDraft<Written>(key, { text, revision: exercise?.revision }), 300)
    return () => clearTimeout(soon)
  }, [text, dirty, draft, key, exercise])
  const blocker = useBlocker(
    ({ currentLocation, nextLocation }) => dirty && currentLocation.pathname !== nextLocation.pathname,
  )
  useEffect(() => {
    if (!dirty) return
    const ask = (e: BeforeUnloadEvent) => e.preventDefault()
    addEventListener('beforeunload', ask)
    return () => removeEventListener('beforeunload', ask)
  }, [dirty])

  const show = (now: string) =>
    view.current?.dispatch({ changes: { from: 0, to: view.current.state.doc.length, insert: now } })

  async function keep(over = false) {
    const now = view.current!.state.doc.toString()
    const name = exercise?.name ?? /^name:\s*(\S+)/m.exec(now)?.[1] ?? ''
    const at = `/exercises/${part(name)}`
    try {
      let match = tag
      if (over) match = (await tagged<Exercise>(at)).tag
      const x = await send<Exercise>(
        'PUT',
        at,
        'application/yaml',
        now,
        exercise ? { 'If-Match': match } : { 'If-None-Match': '*' },
      )
      dropDraft(key)
      setClash(undefined)
      setDraft(undefined)
      setTold([
        true,
        x.revision === exercise?.revision
          ? `nothing has changed since revision ${x.revision}`
          : `✓ saved as revision ${x.revision}`,
      ])
      const again = await queries.fetchQuery({ queryKey: ['exercise', x.name], queryFn: () => tagged<Exercise>(at) })
      setExercise(again.body)
      setTag(again.tag)
      setText(now)
      setDone(x)
      queries.invalidateQueries({ queryKey: ['exercises'] })
      if (!exercise) created.current = x.name
    } catch (e) {
      const problem = e as Refused
      if (problem.code === 'changed') setClash(await send<Compared>('POST', `${at}/compare`, 'application/yaml', now))
      setTold([false, `✗ ${problem.message}`])
    }
  }
  const created = useRef('')
  useEffect(() => {
    if (!created.current || dirty) return
    navigate(`/exercises/${created.current}`, { replace: true, state: { done } })
    created.current = ''
  })

  const wrong = checked?.mistakes.filter((m) => !m.warning).length ?? 0
  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-4 pt-8 pb-4">
        <h1 className="text-xl">{exercise?.title ?? 'New exercise'}</h1>
        <span className="flex flex-wrap items-center gap-4">
          <span role="status" className={told[0] ? 'text-moss' : 'text-brick'}>
            {told[1]}
          </span>
          {exercise && (
            <a className="quiet no-underline" href={address(`/exercises/${part(exercise.name)}/folder`)}>
              Export folder
            </a>
          )}
          <button type="button" className="plate" onClick={() => keep()} disabled={wrong > 0}>
            Save {exercise ? 'as a new revision' : ''}
          </button>
        </span>
      </div>
      {draft && (
        <p role="status" className="flex flex-wrap items-center gap-4 border-y border-line py-2 text-amber">
          ≈ You wrote something here on {when(new Date(draft.at).toISOString())} that was not saved
          {draft.value.revision && draft.value.revision !== exercise?.revision
            ? `, from revision ${draft.value.revision}`
            : ''}
          .
          <button
            type="button"
            className="quiet"
            onClick={() => {
              show(draft.value.text)
              setDraft(undefined)
            }}
          >
            Restore it
          </button>
          <button
            type="button"
            className="quiet"
            onClick={() => {
              dropDraft(key)
              setDraft(undefined)
            }}
          >
            Discard it
          </button>
        </p>
      )}
      {clash && (
        <section aria-label="somebody else was faster" className="border-y-2 border-ink py-3">
          <p>
            {clash.by || 'Somebody'} saved revision {clash.revision} while you wrote. This is how your text differs from
            it:
          </p>
          <Changes text={clash.changes} />
          <button type="button" className="plate" onClick={() => keep(true)}>
            Save mine as revision {clash.revision + 1}
          </button>
          <button type="button" className="quiet" onClick={() => setClash(undefined)}>
            Keep editing
          </button>
          <button
            type="button"
            className="quiet"
            onClick={async () => {
              const theirs = await tagged<Exercise>(`/exercises/${part(exercise!.name)}`)
              keepDraft<Written>(key, { text, revision: exercise?.revision })
              setDraft(draftOf<Written>(key))
              setExercise(theirs.body)
              setTag(theirs.tag)
              show(theirs.body.text ?? '')
              setClash(undefined)
              setTold([true, 'this is what stands; yours is kept beside it'])
            }}
          >
            Show that revision
          </button>
        </section>
      )}
      {(done ?? state?.done) && !clash && <Saved exercise={done ?? state!.done!} />}
      <Leaving blocker={blocker} />
      <p aria-live="polite" className={wrong ? 'text-brick' : 'text-slate'}>
        {!checked
          ? 'Checking…'
          : wrong
            ? `✗ ${wrong} problems; the first in line ${checked.mistakes.find((m) => !m.warning)!.line}`
            : `✓ valid${checked.mistakes.length ? `, with ${checked.mistakes.length} remarks` : ''}`}
        {exercise && (
          <span className="text-slate">
            {' '}
            · revision {exercise.revision}; open to{' '}
            {exercise.classes === 1 ? 'one class' : `${exercise.classes} classes`}
          </span>
        )}
      </p>
      <div className="grid gap-8 pt-2 lg:grid-cols-2">
        <div ref={box} className="min-w-0 self-start border border-line" />
        <Partner
          text={text}
          checked={checked}
          exercise={exercise?.name}
          references={exercise?.files?.filter((f) => firmware.test(f)) ?? []}
          replace={show}
          insert={(piece, under) => {
            const v = view.current!
            const { at, text: lines } = inserted(v.state.doc.toString(), piece, under)
            v.dispatch({
              changes: { from: at, insert: lines },
              selection: { anchor: at, head: at + lines.length },
              scrollIntoView: true,
            })
            v.focus()
          }}
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
                  v.dispatch({
                    selection: { anchor: Math.min(line.to, line.from + m.column - 1) },
                    scrollIntoView: true,
                  })
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
      <p className="flex gap-4 pt-4 text-sm">
        <Link to="/exercises">All exercises</Link>
        {exercise && <Link to={`/exercises/${exercise.name}/bench`}>Live bench</Link>}
      </p>
    </>
  )
}

// Leaving asks before a text that was not saved is left: it stays in this browser.
function Leaving({ blocker }: { blocker: Blocker }) {
  if (blocker.state !== 'blocked') return null
  return (
    <Radix.Root open onOpenChange={() => blocker.reset()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Radix.Content className="fixed top-[8vh] left-1/2 z-30 w-[420px] max-w-[94vw] -translate-x-1/2 border-2 border-ink bg-paper p-6">
          <Radix.Title className="text-lg">Leave without saving?</Radix.Title>
          <Radix.Description className="pb-4 text-sm text-slate">
            Your text stays in this browser and is offered when you come back.
          </Radix.Description>
          <div className="flex justify-end gap-2">
            <button type="button" className="quiet" onClick={() => blocker.proceed()}>
              Leave
            </button>
            <button type="button" className="plate" autoFocus onClick={() => blocker.reset()}>
              Stay
            </button>
          </div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
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
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': {
    background: 'color-mix(in srgb, var(--bottle) 25%, transparent) !important',
  },
  '.cm-tooltip': { background: 'var(--paper)', border: '1px solid var(--line)', color: 'var(--ink)' },
})
