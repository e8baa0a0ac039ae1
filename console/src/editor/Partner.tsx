import * as Tabs from '@radix-ui/react-tabs'
import { type ReactNode, useEffect, useState } from 'react'
import { form } from '../api'
import { Schematic, Wires } from '../bench/Schematic'
import type { Checked, Recorded, Tried, Variant } from '../types'
import { Empty } from '../ui/fields'
import { InTurn } from '../ui/Place'
import { Outcome } from '../result/Outcome'
import { Help } from './Help'
import { Strength } from './Strength'

interface Props {
  text: string // as it is now
  checked?: Checked
  exercise?: string // that is in the service already, and its folder's firmware
  references: string[]
  replace: (text: string) => void
  insert: (text: string, under: 'bench' | 'expect') => void // where it belongs
}

// Partner is beside the text of an exercise: its bench as a diagram and as a table, and what a firmware does on it.
export function Partner(props: Props) {
  const { checked } = props
  const stale = checked && !checked.valid && (
    <p role="status" className="pb-2 text-sm text-amber">
      ≈ The text has errors. This shows the last valid version.
    </p>
  )
  const [shown, setShown] = useState('schematic')
  return (
    <Tabs.Root value={shown} onValueChange={setShown} className="min-w-0">
      <Tabs.List className="flex flex-wrap gap-x-6 border-b border-line" aria-label="views">
        {['schematic', 'pins', 'firmware', 'strength', 'help'].map((t) => (
          <Tabs.Trigger
            key={t}
            value={t}
            className="-mb-px border-b-2 border-transparent py-1 text-slate data-[state=active]:border-bottle data-[state=active]:text-ink"
          >
            {t}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value="schematic" className="pt-4">
        {checked?.schematic && stale}
        {checked?.schematic ? (
          <>
            <Schematic drawing={checked.schematic} label="circuit diagram of the bench" />
            {checked.others?.map((other) => (
              <Schematic
                key={other.chip}
                drawing={other.schematic}
                label={`circuit diagram of the bench with the ${other.chip}`}
              />
            ))}
          </>
        ) : (
          <Empty>The diagram appears once the file is valid.</Empty>
        )}
      </Tabs.Content>
      <Tabs.Content value="pins" className="pt-4">
        {checked?.wires && stale}
        {checked?.wires ? (
          <>
            <Wires wires={checked.wires} />
            {checked.others?.map((other) => (
              <section key={other.chip}>
                <h3 className="pt-6 pb-3 text-slate">With the {other.chip}</h3>
                <Wires wires={other.wires} />
              </section>
            ))}
          </>
        ) : (
          <Empty>The table appears once the file is valid.</Empty>
        )}
      </Tabs.Content>
      <Firmware {...props} shown={shown === 'firmware'} />
      <Tabs.Content value="help" className="pt-4">
        <Help insert={props.insert} />
      </Tabs.Content>
    </Tabs.Root>
  )
}

// Firmware is chosen once, for what is tried with it. Its panes stay while another one is looked at, so that what was
// computed is not lost.
function Firmware(props: Props & { shown: boolean }) {
  const [reference, setReference] = useState(props.references[0] ?? '')
  const [file, setFile] = useState<File>()
  const [busy, setBusy] = useState('')
  const [told, setTold] = useState<[boolean, string]>([true, ''])
  const [tried, setTried] = useState<Tried>()
  const [recorded, setRecorded] = useState<Recorded>()
  const [variants, setVariants] = useState<Variant[]>()

  // What was computed belongs to one text and one file: with another file it is gone, with another text it says so.
  const [of, setOf] = useState<Record<string, string>>({})
  function pick(name: string, next?: File) {
    setReference(name)
    setFile(next)
    setTried(undefined)
    setRecorded(undefined)
    setVariants(undefined)
    setTold([true, ''])
  }
  const older = (what: string) =>
    of[what] !== undefined &&
    of[what] !== props.text && (
      <p role="status" className="text-sm text-amber">
        ≈ This is of the text as it was before; try it again.
      </p>
    )

  async function ask<T>(what: string, path: string, take: (answer: T) => void, more?: Record<string, string>) {
    setBusy(what)
    setTold([true, ''])
    try {
      const values: Record<string, string> = { text: props.text, ...more }
      setOf((was) => ({ ...was, [path]: props.text }))
      if (!file && reference) Object.assign(values, { exercise: props.exercise ?? '', reference })
      take(await form<T>(path, values, file ? [['file', file]] : []))
    } catch (e) {
      setTold([false, `✗ ${(e as Error).message}`])
    } finally {
      setBusy('')
    }
  }
  const chosen = file?.name ?? reference
  useEffect(() => {
    // the film strip of the reference is there when one comes to look
    // eslint-disable-next-line react-hooks/set-state-in-effect
    if (props.shown && reference && !tried) ask('Try it', '/try', setTried)
  }, [props.shown]) // eslint-disable-line react-hooks/exhaustive-deps
  const choose = (
    <div className="flex flex-wrap items-end gap-4 py-3">
      {props.references.length > 0 && (
        <label>
          <span className="text-sm text-slate">Reference firmware</span>
          <select className="field" value={file ? '' : reference} onChange={(e) => pick(e.target.value)}>
            {file && <option value="">{file.name}</option>}
            {props.references.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
      )}
      <label className="quiet cursor-pointer focus-within:outline-2 focus-within:outline-bottle">
        {file ? file.name : 'Choose another file…'}
        <input
          type="file"
          className="sr-only"
          onChange={(e) => e.target.files?.[0] && pick(reference, e.target.files[0])}
        />
      </label>
    </div>
  )
  const action = (
    label: string,
    during: string,
    path: string,
    take: (answer: never) => void,
    more?: Record<string, string>,
  ): ReactNode => (
    <button type="button" className="plate" disabled={!!busy || !chosen} onClick={() => ask(label, path, take, more)}>
      {busy === label ? <InTurn during={during} /> : label}
    </button>
  )
  const status = (
    <p role="status" className={`whitespace-pre-wrap ${told[0] ? 'text-moss' : 'text-brick'}`}>
      {told[1]}
    </p>
  )
  return (
    <>
      <Tabs.Content value="firmware" forceMount className="data-[state=inactive]:hidden">
        {choose}
        <div className="flex flex-wrap gap-4">
          {action('Try it', 'Trying…', '/try', setTried)}
          {action(
            'Record expectations',
            'Recording…',
            '/record',
            (r: Recorded) =>
              r.added.length + r.replaced.length
                ? setRecorded(r)
                : setTold([true, '✓ every display already has an expectation, and it is met']),
            { replace: '1' },
          )}
        </div>
        {status}
        {recorded && (
          <section aria-label="recorded" className="my-4 border-t-2 border-ink pt-2">
            <h3>Recorded expectations</h3>
            {older('/record')}
            <ul className="text-sm">
              {recorded.added.map((a) => (
                <li key={a} className="border-t border-line py-1 font-mono">
                  + {a}
                </li>
              ))}
              {recorded.replaced.map((a) => (
                <li key={a} className="border-t border-line py-1 font-mono">
                  ± in the place of what it does not meet: {a}
                </li>
              ))}
              {recorded.left.map((a) => (
                <li key={a} className="border-t border-line py-1 text-amber">
                  ≈ not recorded: {a}
                </li>
              ))}
            </ul>
            <button
              type="button"
              className="plate mt-2"
              onClick={() => {
                props.replace(recorded.text)
                setRecorded(undefined)
              }}
            >
              Insert into the text
            </button>
            <button type="button" className="quiet" onClick={() => setRecorded(undefined)}>
              Discard
            </button>
          </section>
        )}
        {tried && older('/try')}
        {tried ? (
          <Outcome tried={tried} />
        ) : (
          <Empty>Try the reference to see what the displays show and how it is marked. Nothing is saved.</Empty>
        )}
      </Tabs.Content>
      <Tabs.Content value="strength" forceMount className="data-[state=inactive]:hidden">
        {choose}
        {action('Test with faults', 'Testing…', '/strength', setVariants)}
        {status}
        {variants && older('/strength')}
        {variants ? (
          <Strength variants={variants} />
        ) : (
          <Empty>
            Makes and marks faulty variants of the reference. The table shows which of them the expectations catch, and
            what would catch the others.
          </Empty>
        )}
      </Tabs.Content>
    </>
  )
}
