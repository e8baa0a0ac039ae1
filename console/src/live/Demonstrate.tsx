import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { form, part, send } from '../api'
import { Strips, useROM } from '../bench/Strip'
import { Saved } from '../editor/Saved'
import { Strength } from '../editor/Strength'
import type { Demonstrated, Exercise, Tried, Variant } from '../types'
import { brief, seconds } from '../time'
import { Act } from '../ui/Act'
import { InTurn } from '../ui/Place'
import type { Doing } from './protocol'

interface Props {
  exercise: Exercise
  tag: string // of the revision that is shown
  from: File | string // the firmware: a file, or a reference of the exercise
  trials: string[]
  shown: { length: number; done: Doing[] } // what was done by hand
  discard: () => void
}

interface Chosen {
  display: string
  form: string
  marks: number
}

// What the forms of an expectation ask for, in words.
const forms: Record<string, string> = {
  times: 'each state for its time',
  order: 'the states in their order',
  content: 'the state behind each input',
  end: 'the state at the end',
  always: 'the same state all the time',
  none: 'nothing',
}

// What follows from a draft: whether its reference has full marks when it is played again, and which mistakes it notices.
interface Proof {
  marks: string
  full: boolean
  variants?: Variant[]
}

// Demonstrate makes a trial of what was done by hand: its cues, and for each display what is expected of it.
export function Demonstrate({ exercise, tag, from, trials, shown, discard }: Props) {
  const [trial, setTrial] = useState(trials[0] ?? 'shown by hand')
  const [draft, setDraft] = useState<Demonstrated>()
  const [proof, setProof] = useState<Proof>()
  const [busy, setBusy] = useState('')
  const [error, setError] = useState('')
  const [saved, setSaved] = useState<Exercise>()
  const queries = useQueryClient()
  const rom = useROM(draft?.reel.tracks)

  const ask = <T,>(path: string, values: Record<string, string>) => {
    if (typeof from === 'string') Object.assign(values, { exercise: exercise.name, reference: from })
    return form<T>(path, values, typeof from === 'string' ? [] : [['file', from]])
  }
  // The draft is made first; then it is played again, and tried with mistakes.
  async function make(name: string, chosen?: Chosen[]) {
    setError('')
    setProof(undefined)
    setSaved(undefined)
    setBusy('Making the trial…')
    try {
      const made = await ask<Demonstrated>('/demonstrate', {
        text: exercise.text ?? '',
        demonstration: JSON.stringify({ trial: name, ...shown, chosen }),
      })
      setDraft(made)
      if (!made.expectations.some((e) => e.form !== 'none')) return
      setBusy('Playing it again…')
      const { sheet } = await ask<Tried>('/try', { text: made.text })
      const full = String(sheet.marks) === String(sheet.of)
      setProof({ marks: `${sheet.marks} / ${sheet.of}`, full })
      if (!full) return
      setBusy('Trying mistakes…')
      const variants = await ask<Variant[]>('/strength', { text: made.text })
      setProof({ marks: `${sheet.marks} / ${sheet.of}`, full, variants })
    } catch (e) {
      setError((e as Error).message)
    } finally {
      setBusy('')
    }
  }
  const choose = (display: string, change: Partial<Chosen>) =>
    make(
      draft!.trial,
      draft!.expectations.map((e) => ({
        display: e.display,
        form: e.form,
        marks: e.marks,
        ...(e.display === display ? change : {}),
      })),
    )
  async function save() {
    const x = await send<Exercise>('PUT', `/exercises/${part(exercise.name)}`, 'application/yaml', draft!.text, {
      'If-Match': tag,
    })
    setSaved(x)
    await queries.invalidateQueries({ queryKey: ['exercise', exercise.name] })
    queries.invalidateQueries({ queryKey: ['exercises'] })
  }
  return (
    <section aria-label="the trial as it was shown" className="mt-6 border-t-2 border-ink pt-3">
      <h2 className="text-lg">The trial as you showed it</h2>
      <form
        className="flex flex-wrap items-end gap-4 py-2"
        onSubmit={(e) => {
          e.preventDefault()
          void make(trial)
        }}
      >
        <label>
          <span className="block text-sm text-slate">Name of the trial</span>
          <input className="field" value={trial} onChange={(e) => setTrial(e.target.value)} list="trials" required />
          <datalist id="trials">
            {trials.map((t) => (
              <option key={t}>{t}</option>
            ))}
          </datalist>
        </label>
        <button type="submit" className="plate" disabled={!!busy}>
          {busy ? <InTurn during={busy} /> : draft ? 'Make it anew' : 'Make a trial of it'}
        </button>
        <button type="button" className="quiet" onClick={discard}>
          Discard
        </button>
        <span className="text-sm text-slate">
          {trials.includes(trial) ? 'It takes the place of the trial of this name.' : 'It is added to the exercise.'}
        </span>
      </form>
      {error && (
        <p role="alert" className="whitespace-pre-wrap text-brick">
          ✗ {error}
        </p>
      )}
      {draft && (
        <>
          <Strips tracks={draft.reel.tracks} rom={rom} />
          {!!draft.reel.cues?.length && (
            <>
              <h3 className="pt-3 text-slate">What is done</h3>
              <ul className="text-sm">
                {draft.reel.cues.map((c, i) => (
                  <li key={i} title={draft.cues[i]}>
                    <span className="inline-block w-20 pr-3 text-right font-mono">{seconds(c.start)}</span> {c.text}
                    {c.end > c.start ? ` for ${brief(c.end - c.start)}` : ''}
                  </li>
                ))}
              </ul>
            </>
          )}
          <h3 className="pt-3 text-slate">What is expected</h3>
          <ul className="divide-y divide-line border-y border-line">
            {draft.expectations.map((e) => (
              <li key={e.display} className="flex flex-wrap items-center gap-x-4 gap-y-1 py-2">
                <span className="w-24 font-mono text-sm">{e.display}</span>
                <select
                  className="field w-auto"
                  aria-label={`what is expected of ${e.display}`}
                  value={e.form}
                  disabled={!!busy}
                  onChange={(v) => choose(e.display, { form: v.target.value })}
                >
                  {e.forms.map((f) => (
                    <option key={f.name} value={f.name}>
                      {forms[f.name]}
                    </option>
                  ))}
                  <option value="none">{forms.none}</option>
                </select>
                <label className="flex items-center gap-2 text-sm">
                  <input
                    key={e.marks}
                    type="number"
                    min={0}
                    max={1000}
                    className="field w-20"
                    defaultValue={e.marks}
                    aria-label={`marks for ${e.display}`}
                    disabled={!!busy || e.form === 'none'}
                    onBlur={(v) =>
                      Number(v.target.value) !== e.marks && choose(e.display, { marks: Number(v.target.value) })
                    }
                    onKeyDown={(v) => v.key === 'Enter' && v.currentTarget.blur()}
                  />
                  marks
                </label>
                <code className="basis-full truncate text-sm text-slate" title={written(e)}>
                  {written(e)}
                </code>
              </li>
            ))}
          </ul>
          {draft.left.map((l) => (
            <p key={l} className="text-sm text-amber">
              ≈ not expected: {l}
            </p>
          ))}
          {proof && (
            <p role="status" className={proof.full ? 'pt-2 text-moss' : 'pt-2 text-brick'}>
              {proof.full ? '✓' : '✗'} Played again, the reference has {proof.marks} in the whole exercise.
            </p>
          )}
          <div className="flex flex-wrap items-center gap-4 py-3">
            <Act
              plate
              act={save}
              why={
                busy ? 'It is still being tried.' : proof?.full ? undefined : 'Its reference needs full marks first.'
              }
            >
              Save as a new revision
            </Act>
            <Link to={`/exercises/${exercise.name}`}>The whole exercise as text</Link>
          </div>
          {saved && <p className="text-moss">✓ saved as revision {saved.revision}</p>}
          {saved && <Saved exercise={saved} />}
          {proof?.variants && <Strength variants={proof.variants} />}
        </>
      )}
    </section>
  )
}

const written = (e: Demonstrated['expectations'][number]) => e.forms.find((f) => f.name === e.form)?.text ?? '—'
