import * as ToggleGroup from '@radix-ui/react-toggle-group'
import { Pause, Play, RotateCcw, StepForward } from 'lucide-react'
import { type ReactNode, useEffect, useRef, useState, useSyncExternalStore } from 'react'
import { OnBench, lit, onTheWall } from '../bench/OnBench'
import { useROM } from '../bench/Strip'
import { Inputs } from './Inputs'
import { ScopeLanes, columns } from './ScopeLanes'
import { Sound } from './Sound'
import type { Doing, Port } from './protocol'
import { type Time, useBench } from './useBench'
import { seconds } from '../time'
import { Outcome } from '../result/Outcome'
import type { Track, Tried } from '../types'

const speeds = [0.01, 0.1, 0.25, 1, 2, 4, 16]

// Subject is what is worked: an exercise, and where its firmware comes from.
export interface Subject {
  title: string
  intro: ReactNode
  text: string // the exercise file
  wiring?: string // a student's own
  references?: string[] // firmware that is at hand, by name
  accept?: string // the kinds of file that may be chosen; none where none may
  rewired?: boolean // a student's own wiring may be given
  chipless?: boolean // it has no chip, and needs no firmware
  none?: string // why there is nothing to run
  programmed: (from: File | string) => Promise<ArrayBuffer> // what the chip is programmed with
  begin?: { from: string; trial: number; at: number } // at once; at a moment of a trial where it is more than 0, in ns
  check?: { marks: boolean; note: ReactNode } // the visible trials can be marked here
  demonstrate?: (shown: ByHand) => ReactNode // a trial is made of what was done
}

// ByHand is what was done by hand with a firmware.
export interface ByHand {
  from: File | string
  trials: string[]
  done: { length: number; done: Doing[] }
  discard: () => void
}

// LiveBench runs a bench in the page, with hands on its keys.
export function LiveBench({ of }: { of: Subject }) {
  const { open, say, end, check, bench, trials, shown, time, error, waiting } = useBench()
  const references = of.references ?? []
  const [from, setFrom] = useState<File | string>()
  const [trial, setTrial] = useState(0)
  const [speed, setSpeed] = useState(1)
  const [building, setBuilding] = useState(false)
  const [refused, setRefused] = useState('')
  const [recording, setRecording] = useState(false)
  const [demonstration, setDemonstration] = useState<{ length: number; done: Doing[] }>()
  const [wiring, setWiring] = useState(of.wiring ?? '')
  const [driven, setDriven] = useState(false)
  const [scope, setScope] = useState<{ width: number; end?: number }>()
  const [tried, setTried] = useState<Tried>()
  const [checking, setChecking] = useState(false)
  const start = async (from: File | string, trial: number, record = false, at = 0, own?: string) => {
    setRecording(record)
    setTried(undefined)
    setFrom(from)
    setTrial(trial)
    setRefused('')
    setBuilding(true)
    try {
      open({ exercise: of.text, wiring: own ?? wiring, firmware: await of.programmed(from), trial, from: at })
      say({ kind: 'speed', speed })
    } catch (e) {
      setRefused((e as Error).message)
    } finally {
      setBuilding(false)
    }
  }
  const look = (driven: boolean, scope?: { width: number; end?: number }) => {
    setDriven(driven)
    setScope(scope)
    say({ kind: 'look', driven, scope: scope && { ...scope, columns } })
  }
  const begun = useRef(false)
  useEffect(() => {
    if (!of.begin || begun.current) return
    begun.current = true
    void start(of.begin.from, of.begin.trial, false, of.begin.at)
  })
  return (
    <>
      <h1 className="pt-8 text-xl">{of.title}: live bench</h1>
      <p className="max-w-[80ch] pb-4 text-slate">{of.intro}</p>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-2 border-y border-line py-2">
        {references.length > 0 && (
          <label>
            <span className="block text-sm text-slate">Reference</span>
            <select
              className="field"
              value={typeof from === 'string' ? from : ''}
              onChange={(e) => e.target.value && start(e.target.value, trial)}
            >
              <option value="">{typeof from === 'object' ? from.name : 'choose…'}</option>
              {references.map((r) => (
                <option key={r}>{r}</option>
              ))}
            </select>
          </label>
        )}
        {of.accept && (
          <label>
            <span className="block text-sm text-slate">A file: {of.accept}</span>
            <input
              type="file"
              accept={of.accept}
              className="field"
              onChange={(e) => e.target.files?.[0] && start(e.target.files[0], trial)}
            />
          </label>
        )}
        {of.rewired && (
          <label>
            <span className="block text-sm text-slate">Your own wiring, if it differs</span>
            <input
              type="file"
              accept=".yaml,.yml"
              className="field"
              onChange={async (e) => {
                const own = (await e.target.files?.[0]?.text()) ?? ''
                setWiring(own)
                if (from !== undefined) void start(from, trial, false, 0, own)
              }}
            />
          </label>
        )}
        {of.chipless && (
          <button type="button" className="plate" onClick={() => start('', trial)}>
            Power on
          </button>
        )}
        {of.none && <p className="text-amber">≈ {of.none}</p>}
        {trials.length > 1 && from !== undefined && (
          <label>
            <span className="block text-sm text-slate">Bounce and chance as in</span>
            <select className="field" value={trial} onChange={(e) => start(from, Number(e.target.value))}>
              {trials.map((t, i) => (
                <option key={t} value={i}>
                  {t}
                </option>
              ))}
            </select>
          </label>
        )}
        {(building || waiting) && (
          <span className="text-slate" role="status">
            {building ? 'Building…' : 'Powering on…'}
          </span>
        )}
      </div>
      {(refused || error) && (
        <p className="py-4 whitespace-pre-wrap text-brick" role="alert">
          ✗ {refused || error}
        </p>
      )}
      {bench && (
        <div className="grid gap-8 pt-4 md:grid-cols-[3fr_2fr]">
          <div>
            <Displays tracks={shown?.displays ?? bench.displays} />
            <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-2">
              <button
                type="button"
                className="plate flex w-24 items-center justify-center gap-2"
                onClick={() => {
                  if (scope?.end !== undefined) look(driven, { width: scope.width }) // now again
                  say({ kind: 'run', running: !shown?.running })
                }}
              >
                {shown?.running ? <Pause size={16} aria-hidden /> : <Play size={16} aria-hidden />}
                {shown?.running ? 'Pause' : 'Run'}
              </button>
              <button
                type="button"
                className="quiet"
                onClick={() => say({ kind: 'step' })}
                aria-label="to the next state"
                title="to the next state"
              >
                <StepForward size={18} />
              </button>
              <button
                type="button"
                className="quiet"
                onClick={() => from !== undefined && start(from, trial)}
                aria-label="power on again"
                title="power on again"
              >
                <RotateCcw size={18} />
              </button>
              <ToggleGroup.Root
                type="single"
                value={String(speed)}
                onValueChange={(v) => {
                  if (!v) return
                  setSpeed(Number(v))
                  say({ kind: 'speed', speed: Number(v) })
                }}
                className="flex"
                aria-label="speed"
              >
                {speeds.map((s) => (
                  <ToggleGroup.Item
                    key={s}
                    value={String(s)}
                    className="px-2 text-sm text-slate data-[state=on]:border-b-2 data-[state=on]:border-bottle data-[state=on]:text-bottle"
                  >
                    {s}×
                  </ToggleGroup.Item>
                ))}
              </ToggleGroup.Root>
              <ToggleGroup.Root
                type="single"
                value={driven ? 'driven' : 'seen'}
                onValueChange={(v) => v && look(v === 'driven', scope)}
                className="flex"
                aria-label="how displays are looked at"
              >
                {['seen', 'driven'].map((v) => (
                  <ToggleGroup.Item
                    key={v}
                    value={v}
                    className="px-2 text-sm text-slate data-[state=on]:border-b-2 data-[state=on]:border-bottle data-[state=on]:text-bottle"
                  >
                    as {v}
                  </ToggleGroup.Item>
                ))}
              </ToggleGroup.Root>
              <button
                type="button"
                className="quiet aria-pressed:text-bottle aria-pressed:underline"
                aria-pressed={!!scope}
                onClick={() => look(driven, scope ? undefined : { width: 1e8 })}
              >
                Scope
              </button>
              {(driven || scope) && (
                <button type="button" className="quiet" onClick={() => say({ kind: 'edge' })}>
                  Next edge
                </button>
              )}
              <Sound tracks={shown?.displays ?? bench.displays} />
              {of.demonstrate && (
                <button
                  type="button"
                  className={recording ? 'plate' : 'quiet'}
                  onClick={async () => {
                    if (!recording) return start(from!, trial, true)
                    setRecording(false)
                    setDemonstration(await end())
                  }}
                >
                  {recording ? 'Stop recording' : 'Record a trial'}
                </button>
              )}
              <output className="ml-auto font-mono" aria-label="time since power-on">
                <Now time={time} />
              </output>
            </div>
            {scope && shown?.traces && (
              <ScopeLanes
                traces={shown.traces}
                until={shown.until}
                width={scope.width}
                setWidth={(width) => look(driven, { ...scope, width })}
                still={!shown.running}
                move={(by) =>
                  look(driven, {
                    ...scope,
                    end: Math.min(time.now(), Math.max(scope.width, (scope.end ?? time.now()) + by * scope.width)),
                  })
                }
              />
            )}
            {shown?.serial?.map((port) => (
              <SerialPort key={port.name} port={port} />
            ))}
            <p className="min-h-6 text-sm text-amber" role="status">
              {shown?.stop
                ? `≈ The program stopped: ${shown.stop}`
                : shown?.running && shown.share < 0.9
                  ? `≈ Slower than asked: ${Math.round(shown.share * 100)} % of ${speed}×. Nothing is left out.`
                  : ''}
            </p>
          </div>
          <div>
            <h2 className="text-lg">What hands can do</h2>
            {bench.controls.length === 0 ? (
              <p className="text-slate">This bench has nothing to press, turn or set.</p>
            ) : (
              <Inputs controls={bench.controls} say={say} />
            )}
          </div>
        </div>
      )}
      {of.check && bench && (
        <section aria-label="check" className="mt-6 border-t-2 border-ink pt-3">
          <div className="flex flex-wrap items-center gap-4">
            <button
              type="button"
              className="plate"
              disabled={checking}
              onClick={async () => {
                setChecking(true)
                setTried(await check(typeof from === 'string' ? from : (from?.name ?? 'firmware'), of.check!.marks))
                setChecking(false)
              }}
            >
              {checking ? 'Checking…' : 'Check it here'}
            </button>
            <span className="text-sm text-slate">{of.check.note}</span>
          </div>
          {tried && <Outcome tried={tried} />}
        </section>
      )}
      {demonstration &&
        from !== undefined &&
        of.demonstrate?.({ from, trials, done: demonstration, discard: () => setDemonstration(undefined) })}
    </>
  )
}

const now = (t: Track) => t.frames.at(-1)

// Now is the time since power-on.
function Now({ time }: { time: Time }) {
  return <>{seconds(useSyncExternalStore(time.subscribe, time.now) * 1000)}</>
}

// SerialPort is what the chip sent to a terminal, its end in view.
function SerialPort({ port }: { port: Port }) {
  return (
    <section className="border-t border-line py-2">
      <h2 className="text-sm text-slate">sent by {port.name}</h2>
      <pre
        className="max-h-48 overflow-auto font-mono text-sm"
        tabIndex={0}
        role="log"
        aria-label={`sent by ${port.name}`}
        ref={(e) => {
          e?.scrollTo(0, e.scrollHeight)
        }}
      >
        {port.text}
      </pre>
    </section>
  )
}

// Displays are the instruments, as a person sees them now.
function Displays({ tracks }: { tracks: Track[] }) {
  const rom = useROM(tracks)
  return (
    <div className="flex flex-wrap items-end justify-center gap-4 rounded-sm bg-well p-6" data-testid="live bench">
      {onTheWall(tracks).map((t) => (
        <OnBench key={t.display} track={t} frame={now(t)} lit={lit(tracks, t, now)} rom={rom} />
      ))}
    </div>
  )
}
