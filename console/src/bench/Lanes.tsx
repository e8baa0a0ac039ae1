import { ZoomIn, ZoomOut } from 'lucide-react'
import { memo, useCallback, useEffect, useRef, useState } from 'react'
import { brief, ruler, second, seconds } from '../time'
import type { Entry, Pair, Reel, Operation, Trial } from '../types'
import { stepColour, stepMark } from '../ui/marks'
import { type Clock, useTime } from './player'

interface Bar {
  from: number
  to: number
  text: string
  operation?: Operation
  title: string
}

interface Lane {
  label: string
  tall?: boolean // its texts have rows
  bars: Bar[]
  first?: number
}

// maxBars bounds what is drawn of a bus: what is closer together is drawn as one.
const maxBars = 400

// maxLog is how many entries a reel keeps for each part or bus (core/reel).
const maxLog = 1000

const between = '" / "'

// telling gives the rows that are worth a look where there is room for two only: those in which the frames of
// a display differ.
export function telling(texts: string[]): (text: string) => string {
  const rows = texts.map((t) => t.split(between))
  const most = Math.max(0, ...rows.map((r) => r.length))
  if (most <= 2) return (t) => t
  const full = rows.filter((r) => r.length === most)
  const differ = full[0].map((_, i) => i).filter((i) => full.some((r) => r[i] !== full[0][i]))
  const chosen = differ.length ? differ.slice(-2) : [0, 1]
  return (t) => {
    const r = t.split(between)
    return r.length === most ? chosen.map((i) => `"${r[i].replace(/^"|"$/g, '')}"`).join(' / ') : t
  }
}

// lanes lays everything that has a time on alignment: for each display what was expected above what was
// seen, then the cues.
export function lanes(trial: Trial, reel: Reel): Lane[] {
  const out: Lane[] = []
  for (const track of reel.tracks) {
    const verdicts = trial.verdicts.filter((v) => v.display === track.display)
    const sequence = verdicts.find((v) => v.sequence)
    const pick = telling(track.frames.map((f) => f.text))
    const bars = (pairs: Pair[]): Bar[] =>
      pairs
        .filter((p) => p.expected)
        .map((p) => ({
          from: p.expected!.from,
          to: Math.max(p.expected!.to, p.expected!.from),
          text: pick(p.expected!.text),
          operation: p.operation,
          title: `expected ${p.expected!.text}${p.expected!.to > p.expected!.from ? ` for ${brief(p.expected!.to - p.expected!.from)}` : ''}`,
        }))
    const steps = new Map((sequence?.alignment ?? []).filter((p) => p.seen).map((p) => [p.seen!.from, p.operation]))
    const seen: Bar[] = track.frames.map((f) => ({
      from: f.from,
      to: f.to,
      text: pick(f.text),
      operation: steps.get(f.from),
      title: `${f.text} from ${seconds(f.from)} for ${brief(f.to - f.from)}`,
    }))
    const first = verdicts.map((v) => v.first?.at).filter((t) => t !== undefined)
    const expected = bars(sequence?.alignment ?? [])
    const reads = bars(verdicts.filter((v) => v !== sequence).flatMap((v) => v.alignment ?? []))
    const tall = !!track.geometry.grid
    if (reads.length) out.push({ label: `${track.display}, to read`, bars: reads, tall })
    if (expected.length) out.push({ label: `${track.display}, expected`, bars: expected, tall })
    out.push({
      label: `${track.display}, seen`,
      bars: seen,
      tall,
      first: first.length ? Math.min(...first) : undefined,
    })
  }
  if (reel.cues?.length) {
    out.push({
      label: 'cues',
      bars: reel.cues.map((c) => ({
        from: c.start,
        to: c.end,
        text: c.text,
        title: `${c.text} for ${brief(c.end - c.start)}`,
      })),
    })
  }
  for (const part of [...new Set(reel.log?.map((e) => e.part))]) {
    const bursts = new Map<number, Entry[]>()
    for (const e of reel.log!) {
      const slot = Math.floor((e.at / reel.length) * maxBars)
      if (e.part === part) bursts.set(slot, [...(bursts.get(slot) ?? []), e])
    }
    const bars: Bar[] = [...bursts.values()].map((b) => ({
      from: b[0].at,
      to: b[b.length - 1].at,
      text: '',
      title: `${seconds(b[0].at)} ${tell(b[0])}${b.length > 1 ? `, and ${b.length - 1} more` : ''}`,
    }))
    const own = reel.log!.filter((e) => e.part === part)
    if (reel.unlogged && own.length >= maxLog) {
      const end = own[own.length - 1].at
      const title = `the log is full at ${seconds(end)}: it keeps the first ${maxLog} entries of each part`
      bars.push({ from: end, to: reel.length, text: 'not logged', operation: 'ignored', title })
    }
    out.push({ label: `${part}, bus`, bars })
  }
  return out
}

// tell writes an entry of the bus log: what happened, and its bytes as numbers and as characters.
export function tell(e: Entry) {
  if (!e.data?.length) return e.what
  const numbers = e.data.map((v) => v.toString(16).toUpperCase().padStart(2, '0')).join(' ')
  const characters = e.data.map((v) => (v >= 32 && v < 127 ? String.fromCharCode(v) : '·')).join('')
  return `${e.what} ${numbers}${characters.replaceAll('·', '') ? `  ${characters}` : ''}`
}

// Wave is a net as it was driven, for as long as that is known.
export interface Wave {
  net: string
  changes: { at: number; level: string }[]
  to: number
}

type View = [from: number, to: number]

// closest is how little of a run can be looked at: a microsecond.
const closest = 1e6

// Lanes draws all lanes on one time axis, of which a part can be looked at closely; a click anywhere goes to that time.
export function Lanes({
  lanes,
  waves,
  length,
  clock,
  seek,
  around,
}: {
  lanes: Lane[]
  waves?: Wave[]
  length: number
  clock: Clock
  seek: (t: number) => void
  around?: View
}) {
  const [view, setView] = useState<View>([0, length])
  const [from, to] = view
  const box = useRef<HTMLDivElement>(null)
  const look = useCallback(
    (middle: number, span: number) => {
      const wide = Math.min(length, Math.max(closest, span))
      const start = Math.max(0, Math.min(length - wide, middle - wide / 2))
      setView([start, start + wide])
    },
    [length],
  )
  useEffect(
    // what is looked at closely goes along with the time
    () =>
      clock.subscribe(() => {
        const time = clock.now()
        if (time < from || time > to) look(time, to - from)
      }),
    [clock, from, to, look],
  )
  const wanted = `${around} ${length}`
  const [given, setGiven] = useState('')
  if (wanted !== given) {
    setGiven(wanted)
    if (around) look((around[0] + around[1]) / 2, around[1] - around[0])
    else setView([0, length])
  }
  useEffect(() => {
    // the wheel zooms where the pointer is, with Ctrl held as everywhere; sideways it moves
    const wheel = (e: WheelEvent) => {
      const rect = box.current!.getBoundingClientRect()
      const span = to - from
      if (e.ctrlKey) {
        const at = from + ((e.clientX - rect.left) / rect.width) * span
        const wide = span * (e.deltaY > 0 ? 1.25 : 0.8)
        look(at + (from + span / 2 - at) * (wide / span), wide)
      } else if (e.deltaX) look(from + span / 2 + (e.deltaX / rect.width) * span, span)
      else return
      e.preventDefault()
    }
    const element = box.current
    element?.addEventListener('wheel', wheel, { passive: false })
    return () => element?.removeEventListener('wheel', wheel)
  }, [from, to, look])
  const go = (e: React.MouseEvent<HTMLDivElement>) => {
    const rect = e.currentTarget.getBoundingClientRect()
    seek(from + ((e.clientX - rect.left) / rect.width) * (to - from))
  }
  const zoom = (by: number) => {
    const time = clock.now()
    look(time >= from && time <= to ? time : (from + to) / 2, (to - from) * by)
  }
  const whole = to - from >= length
  return (
    <section aria-label="time lanes" className="flex border-t-2 border-ink pt-2">
      <div className="w-28 shrink-0 pr-2 sm:w-40">
        <div className="flex h-8 items-center text-sm text-slate">
          <button type="button" className="quiet" disabled={whole} onClick={() => zoom(2)} aria-label="wider">
            <ZoomOut size={16} />
          </button>
          <button
            type="button"
            className="quiet"
            disabled={to - from <= closest}
            onClick={() => zoom(0.5)}
            aria-label="closer"
          >
            <ZoomIn size={16} />
          </button>
          <button
            type="button"
            className="quiet hidden sm:block"
            disabled={whole}
            onClick={() => setView([0, length])}
            title="show the whole run"
          >
            {whole ? 'whole' : `${+(length / (to - from)).toPrecision(2)}×`}
          </button>
        </div>
        <Labels lanes={lanes} waves={waves} />
      </div>
      <div ref={box} className="relative min-w-0 grow cursor-crosshair overflow-hidden pb-4" onClick={go}>
        <Rows lanes={lanes} waves={waves} from={from} to={to} seek={seek} />
        <Now clock={clock} from={from} to={to} />
      </div>
    </section>
  )
}

// Now is the line at the present time.
function Now({ clock, from, to }: { clock: Clock; from: number; to: number }) {
  const time = useTime(clock)
  return (
    <span
      className="pointer-events-none absolute top-0 bottom-0 w-px bg-bottle"
      style={{ left: `${((time - from) / (to - from)) * 100}%` }}
    />
  )
}

const Labels = memo(function Labels({ lanes, waves }: { lanes: Lane[]; waves?: Wave[] }) {
  return (
    <>
      {lanes.map((l) => (
        <div
          key={l.label}
          className={`flex ${l.tall ? 'h-13' : 'h-9'} items-center truncate border-t border-line text-sm text-slate`}
        >
          {l.label}
        </div>
      ))}
      {waves?.map((w) => (
        <div key={w.net} className="flex h-7 items-center truncate border-t border-line font-mono text-sm text-slate">
          {w.net}
        </div>
      ))}
    </>
  )
})

// mostBars is how many states are drawn in a lane at once; what is narrower than its share is drawn as one.
const mostBars = 300

// together draws neighbours that are too narrow to be told apart as one.
function together(bars: Bar[], from: number, to: number): Bar[] {
  const seen = bars.filter((b) => b.to >= from && b.from <= to)
  if (seen.length <= mostBars) return seen
  const least = (to - from) / mostBars
  const out: Bar[] = []
  let several = 0
  for (const b of seen) {
    const last = out.at(-1)
    if (last && b.to - b.from < least && last.to - last.from < least && b.to - last.from < 2 * least) {
      out[out.length - 1] = {
        ...last,
        to: b.to,
        text: '',
        title: `${++several} states`,
        operation: worse(last.operation, b.operation),
      }
    } else {
      out.push(b)
      several = 1
    }
  }
  return out
}

const order: (Operation | undefined)[] = [
  undefined,
  'ignored',
  'right',
  'mistimed',
  'near',
  'extra',
  'missing',
  'wrong',
]
const worse = (a?: Operation, b?: Operation) => (order.indexOf(a) > order.indexOf(b) ? a : b)

// instant writes a time with as many places as a stretch of time needs.
function instant(t: number, span: number) {
  if (span < 0.05 * second) return `${+(t / 1e6).toFixed(span < 1e8 ? 2 : 0)} µs`
  return `${+(t / second).toFixed(3)} s`
}

// Rows is what does not change while time continues.
const Rows = memo(function Rows({
  lanes,
  waves,
  from,
  to,
  seek,
}: {
  lanes: Lane[]
  waves?: Wave[]
  from: number
  to: number
  seek: (t: number) => void
}) {
  const span = to - from
  const at = (t: number) => `${((t - from) / span) * 100}%`
  const step = ruler(span)[1] ?? span
  const first = Math.ceil(from / step) * step
  const ticks = Array.from({ length: Math.floor((to - first) / step) + 1 }, (_, i) => first + i * step)
  return (
    <>
      <div className="h-8 overflow-hidden">
        {ticks
          .filter((t, i) => t < from + span * 0.97 && (span >= 0.05 * second || i % 2 === 0))
          .map((t) => (
            <span
              key={t}
              className="absolute top-0 h-8 border-l border-line pl-1 font-mono text-[13px] whitespace-nowrap text-slate"
              style={{ left: at(t) }}
            >
              {instant(t, span)}
            </span>
          ))}
      </div>
      {lanes.map((l) => (
        <div key={l.label} className={`relative ${l.tall ? 'h-13' : 'h-9'} border-t border-line`}>
          {together(l.bars, from, to).map((b, i) => {
            const [left, right] = [Math.max(b.from, from), Math.min(b.to, to)]
            return (
              <span
                key={i}
                title={b.title}
                className={`absolute top-1 overflow-hidden border-l-2 border-current pl-1 text-[13px] whitespace-pre ${l.tall ? 'h-11 leading-[22px]' : 'h-7 leading-7'} ${b.operation ? stepColour[b.operation] : 'text-slate'}`}
                style={{ left: at(left), width: `max(3px, ${((right - left) / span) * 100}%)` }}
              >
                <span className="absolute inset-0 bg-current opacity-10" />
                <span className="relative text-ink">{l.tall ? b.text.replaceAll('" / "', '"\n"') : b.text}</span>{' '}
                {b.operation && <span className="relative">{stepMark[b.operation]}</span>}
              </span>
            )
          })}
          {l.first !== undefined && l.first >= from && l.first <= to && (
            <button
              type="button"
              className="absolute -bottom-3 z-10 -translate-x-1/2 text-brick"
              style={{ left: at(l.first) }}
              title={`first difference, at ${seconds(l.first)}`}
              onClick={(e) => (e.stopPropagation(), seek(l.first!))}
            >
              ▲
            </button>
          )}
        </div>
      ))}
      {waves?.map((w) => (
        <div key={w.net} className="relative h-7 border-t border-line">
          <svg
            viewBox="0 0 1000 28"
            preserveAspectRatio="none"
            className="absolute inset-0 h-full w-full"
            role="img"
            aria-label={`${w.net} as driven`}
          >
            <path
              d={trace(w, from, to)}
              className="fill-none stroke-ink"
              strokeWidth={1.3}
              vectorEffect="non-scaling-stroke"
            />
          </svg>
        </div>
      ))}
    </>
  )
})

// trace draws a net: high above, low below, anything else in between.
export function trace(w: Wave, from: number, to: number): string {
  const x = (t: number) => Math.max(-5, Math.min(1005, ((t - from) / (to - from)) * 1000)).toFixed(1)
  const y = (level: string) => (level.endsWith('high') ? 6 : level.endsWith('low') && !level.includes('and') ? 22 : 14)
  let d = ''
  w.changes.forEach((c, i) => {
    const end = w.changes[i + 1]?.at ?? w.to
    if (end < from || c.at > to) return
    d += `${d ? 'L' : 'M'}${x(c.at)} ${y(c.level)}L${x(end)} ${y(c.level)}`
  })
  return d
}
