import * as ToggleGroup from '@radix-ui/react-toggle-group'
import { useQuery } from '@tanstack/react-query'
import { Pause, Play, RotateCcw, StepForward } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { Link, useLocation, useParams } from 'react-router'
import { form, part, tagged } from '../api'
import { OnBench, onTheWall } from '../bench/OnBench'
import { useROM } from '../bench/Strip'
import { Inputs } from '../live/Inputs'
import { Demonstrate } from '../live/Demonstrate'
import { Sound } from '../live/Sound'
import type { Doing } from '../live/protocol'
import { useBench } from '../live/useBench'
import { seconds } from '../time'
import type { Exercise, Firmware, Track } from '../types'
import { Problem, Waiting } from '../ui/Frame'

const speeds = [0.01, 0.1, 0.25, 1, 2, 4, 16]

// LiveBench runs an exercise's bench in the page, with hands on its keys.
export default function LiveBench() {
  const { name } = useParams()
  const { data, error } = useQuery({
    queryKey: ['exercise', name],
    refetchOnWindowFocus: false,
    queryFn: () => tagged<Exercise>(`/exercises/${part(name!)}`),
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return <Bench key={name} exercise={data.body} tag={data.tag} />
}

const ready = /\.(hex|elf)$/i
const usable = /\.(hex|elf|c|cpp|zip|S)$/i

// programmed gives what the chip is programmed with: a file of one's own stays here unless it is source, which the
// service builds; a reference is the service's.
async function programmed(exercise: Exercise, from: File | string): Promise<ArrayBuffer> {
  if (typeof from !== 'string' && ready.test(from.name)) return from.arrayBuffer()
  const values: Record<string, string> = { text: exercise.text ?? '' }
  if (typeof from === 'string') Object.assign(values, { exercise: exercise.name, reference: from })
  const { data } = await form<Firmware>('/build', values, typeof from === 'string' ? [] : [['file', from]])
  return Uint8Array.from(atob(data), (c) => c.charCodeAt(0)).buffer
}

function Bench({ exercise, tag }: { exercise: Exercise; tag: string }) {
  const { open, say, end, bench, trials, shown, error, waiting } = useBench()
  // those that need no building come first
  const references = (exercise.files?.filter((f) => usable.test(f)) ?? []).sort(
    (a, b) => Number(ready.test(b)) - Number(ready.test(a)),
  )
  const [from, setFrom] = useState<File | string>()
  const [trial, setTrial] = useState(0)
  const [speed, setSpeed] = useState(1)
  const [building, setBuilding] = useState(false)
  const [refused, setRefused] = useState('')
  const [recording, setRecording] = useState(false)
  const [demonstration, setDemonstration] = useState<{ length: number; done: Doing[] }>()
  const start = async (from: File | string, trial: number, record = false) => {
    setRecording(record)
    setFrom(from)
    setTrial(trial)
    setRefused('')
    setBuilding(true)
    try {
      open(exercise.text ?? '', await programmed(exercise, from), trial)
      say({ kind: 'speed', speed })
    } catch (e) {
      setRefused((e as Error).message)
    } finally {
      setBuilding(false)
    }
  }
  // whoever has just made the exercise sees it run
  const fresh = useLocation().state?.begin === true && references[0]
  const begun = useRef(false)
  useEffect(() => {
    if (!fresh || begun.current) return
    begun.current = true
    void start(fresh, 0)
  })
  return (
    <>
      <h1 className="pt-8 text-xl">{exercise.title}: live bench</h1>
      <p className="pb-4 text-slate">
        The bench runs in this page, with what you do to it. Nothing counts, and firmware stays here; source is built by
        the service. <Link to={`/exercises/${exercise.name}`}>Back to the exercise</Link>
      </p>
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
        <label>
          <span className="block text-sm text-slate">A file: HEX, ELF or source</span>
          <input
            type="file"
            accept=".hex,.elf,.c,.cpp,.zip,.S"
            className="field"
            onChange={(e) => e.target.files?.[0] && start(e.target.files[0], trial)}
          />
        </label>
        {trials.length > 1 && from && (
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
                onClick={() => say({ kind: 'run', running: !shown?.running })}
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
                onClick={() => from && start(from, trial)}
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
              <Sound tracks={shown?.displays ?? bench.displays} />
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
              <output className="ml-auto font-mono" aria-label="time since power-on">
                {seconds((shown?.now ?? 0) * 1000)}
              </output>
            </div>
            {shown?.serial && (
              <pre
                className="max-h-48 overflow-auto border-t border-line py-2 font-mono text-sm"
                tabIndex={0}
                role="log"
                aria-label="terminal"
                ref={(e) => {
                  e?.scrollTo(0, e.scrollHeight)
                }}
              >
                {shown.serial}
              </pre>
            )}
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
              <Inputs key={shown ? 'on' : 'off'} controls={bench.controls} say={say} />
            )}
          </div>
        </div>
      )}
      {demonstration && from && (
        <Demonstrate
          key={demonstration.length}
          exercise={exercise}
          tag={tag}
          from={from}
          trials={trials}
          shown={demonstration}
          discard={() => setDemonstration(undefined)}
        />
      )}
    </>
  )
}

// Displays are the instruments, as a person sees them now.
function Displays({ tracks }: { tracks: Track[] }) {
  const rom = useROM(tracks)
  return (
    <div className="flex flex-wrap items-end justify-center gap-4 rounded-sm bg-well p-6" data-testid="live bench">
      {onTheWall(tracks).map((t) => (
        <OnBench key={t.display} track={t} frame={t.frames.at(-1)} rom={rom} />
      ))}
    </div>
  )
}
