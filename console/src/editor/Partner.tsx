import * as Tabs from '@radix-ui/react-tabs'
import { type ReactNode, useEffect, useState } from 'react'
import { form } from '../api'
import { Schematic, Wires } from '../bench/Schematic'
import { Strip, useROM } from '../bench/Strip'
import { Messages } from '../result/Messages'
import type { Checked, Recorded, Tried, Variant } from '../types'
import { Empty } from '../ui/fields'
import { Wide } from '../ui/Wide'
import { outcomeColour, outcomeMark } from '../ui/marks'
import { InTurn } from '../ui/Place'

interface Props {
  text: () => string
  checked?: Checked
  exercise?: string // that is in the service already, and its folder's firmware
  references: string[]
  replace: (text: string) => void
}

// Partner stands beside the text of an exercise: its bench as a diagram and as a table, and what a firmware does on it.
export function Partner(props: Props) {
  const { checked } = props
  const [shown, setShown] = useState('schematic')
  return (
    <Tabs.Root value={shown} onValueChange={setShown} className="min-w-0">
      <Tabs.List className="flex flex-wrap gap-x-6 border-b border-line" aria-label="beside the text">
        {['schematic', 'pins', 'firmware', 'strength'].map((t) => (
          <Tabs.Trigger key={t} value={t} className="-mb-px border-b-2 border-transparent py-1 text-slate data-[state=active]:border-bottle data-[state=active]:text-ink">
            {t}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value="schematic" className="pt-4">
        {checked?.schematic ? <Schematic drawing={checked.schematic} label="circuit diagram of the bench" /> : <Empty>The diagram is drawn as soon as the file is valid.</Empty>}
      </Tabs.Content>
      <Tabs.Content value="pins" className="pt-4">
        {checked?.wires ? <Wires wires={checked.wires} /> : <Empty>The table is there as soon as the file is valid.</Empty>}
      </Tabs.Content>
      <Firmware {...props} shown={shown === 'firmware'} />
    </Tabs.Root>
  )
}

// Firmware is chosen once, for what is tried with it. Its panes stay while another one is looked at, so that what was
// worked out is not lost.
function Firmware(props: Props & { shown: boolean }) {
  const [reference, setReference] = useState(props.references[0] ?? '')
  const [file, setFile] = useState<File>()
  const [busy, setBusy] = useState('')
  const [told, setTold] = useState<[boolean, string]>([true, ''])
  const [tried, setTried] = useState<Tried>()
  const [recorded, setRecorded] = useState<Recorded>()
  const [variants, setVariants] = useState<Variant[]>()

  async function ask<T>(what: string, path: string, take: (answer: T) => void, more?: Record<string, string>) {
    setBusy(what)
    setTold([true, ''])
    try {
      const values: Record<string, string> = { text: props.text(), ...more }
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
    if (props.shown && reference && !tried) ask('Try it', '/try', setTried)
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [props.shown])
  const choose = (
    <div className="flex flex-wrap items-end gap-4 py-3">
      {props.references.length > 0 && (
        <label>
          <span className="text-sm text-slate">Reference of the folder</span>
          <select
            className="field"
            value={file ? '' : reference}
            onChange={(e) => {
              setReference(e.target.value)
              setFile(undefined)
            }}
          >
            {file && <option value="">{file.name}</option>}
            {props.references.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
      )}
      <label className="quiet cursor-pointer focus-within:outline-2 focus-within:outline-bottle">
        {file ? file.name : 'another firmware or source…'}
        <input type="file" className="sr-only" onChange={(e) => setFile(e.target.files?.[0])} />
      </label>
    </div>
  )
  const action = (label: string, during: string, path: string, take: (answer: never) => void, more?: Record<string, string>): ReactNode => (
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
          {action('Record what it shows', 'Recording…', '/record', (r: Recorded) => (r.added.length + r.anew.length ? setRecorded(r) : setTold([true, '✓ every display has its expectation, and meets it'])), { anew: '1' })}
        </div>
        {status}
        {recorded && (
          <section aria-label="recorded" className="my-4 border-t-2 border-ink pt-2">
            <h3>Recorded expectations</h3>
            <ul className="text-sm">
              {recorded.added.map((a) => (
                <li key={a} className="border-t border-line py-1 font-mono">
                  + {a}
                </li>
              ))}
              {recorded.anew.map((a) => (
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
              Put them into the text
            </button>
            <button type="button" className="quiet" onClick={() => setRecorded(undefined)}>
              Drop them
            </button>
          </section>
        )}
        {tried ? <Outcome tried={tried} /> : <Empty>Try the reference: here is what the displays show, and how it is marked. Nothing of it is kept.</Empty>}
      </Tabs.Content>
      <Tabs.Content value="strength" forceMount className="data-[state=inactive]:hidden">
        {choose}
        {action('Try its faults', 'Trying faults…', '/strength', setVariants)}
        {status}
        {variants ? <Strength variants={variants} /> : <Empty>Faulty variants of the reference are made and marked: the table tells which of them the expectations catch, and what would catch the others.</Empty>}
      </Tabs.Content>
    </>
  )
}

// Outcome is what a firmware showed, and how it was marked.
function Outcome({ tried: { sheet, reels } }: { tried: Tried }) {
  const rom = useROM(reels.find((r) => r.tracks.some((t) => t.look.grid)))
  return (
    <section aria-label="what it shows" className="pt-2">
      <p className="text-lg">
        {sheet.marks} / {sheet.of}
      </p>
      {sheet.failed && <p className="whitespace-pre-wrap text-brick">✗ {sheet.failed}</p>}
      <Messages list={sheet.messages} />
      {sheet.findings.map((f, i) => (
        <p key={i} className="border-t border-line py-1 text-sm">
          <span className="pr-2 text-slate">·</span>
          {f.text}
        </p>
      ))}
      {sheet.trials.map((t, i) => (
        <section key={t.name} className="pt-3">
          <h3 className="border-t-2 border-ink pt-1">{t.name}</h3>
          {reels[i]?.tracks.filter((track) => !reels[i].tracks.some((group) => group.of?.includes(track.display))).map((track) => (
            <div key={track.display} className="flex items-center gap-3 py-1">
              <span className="w-24 shrink-0 truncate text-sm text-slate" title={track.display}>
                {track.display}
              </span>
              <Strip track={track} rom={rom} />
            </div>
          ))}
          <ul className="text-sm">
            {t.verdicts.map((v, k) => (
              <li key={k} className="flex gap-3 border-t border-line py-1">
                <span className={`w-24 shrink-0 ${outcomeColour[v.outcome]}`}>
                  {outcomeMark[v.outcome]} {v.outcome}
                </span>
                <span className="grow">{v.expectation}</span>
                <span className="whitespace-nowrap">
                  {+v.marks.toFixed(3)} / {v.of}
                </span>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </section>
  )
}

function Strength({ variants }: { variants: Variant[] }) {
  const caught = variants.filter((v) => v.caught).length
  return (
    <section aria-label="strength" className="pt-2">
      <p className={caught === variants.length ? 'text-moss' : 'text-amber'}>
        {caught === variants.length ? '✓' : '≈'} {caught} of {variants.length} faults caught
      </p>
      <Wide>
        <table className="book">
          <thead>
            <tr>
              <th>Fault</th>
              <th className="number">Marks</th>
              <th>What would catch it</th>
            </tr>
          </thead>
          <tbody>
            {[...variants]
              .sort((a, b) => Number(a.caught) - Number(b.caught))
              .map((v, i) => (
                <tr key={i}>
                  <td className="py-1">
                    <span className={v.caught ? 'pr-2 text-moss' : 'pr-2 text-amber'}>{v.caught ? '✓' : '≈'}</span>
                    {v.makes}
                  </td>
                  <td className="number">
                    {v.marks} / {v.of}
                  </td>
                  <td className="text-sm text-slate">{v.add}</td>
                </tr>
              ))}
          </tbody>
        </table>
      </Wide>
    </section>
  )
}
