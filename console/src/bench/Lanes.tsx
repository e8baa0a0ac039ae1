import { useState } from 'react'
import { brief, ruler, second, seconds } from '../time'
import type { Entry, Pair, Reel, Step, Trial } from '../types'
import { stepColour, stepMark } from '../ui/marks'

interface Bar {
  from: number
  to: number
  text: string
  step?: Step
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

// lanes lays everything that has a time on lanes: for each display what was expected above what was
// seen, then the cues.
export function lanes(trial: Trial, reel: Reel): Lane[] {
  const out: Lane[] = []
  for (const track of reel.tracks) {
    const verdicts = trial.verdicts.filter((v) => v.display === track.display)
    const sequence = verdicts.find((v) => v.kind === 'shows')
    const pick = telling(track.frames.map((f) => f.text))
    const bars = (pairs: Pair[]): Bar[] =>
      pairs
        .filter((p) => p.expected)
      .map((p) => ({
        from: p.expected!.from,
        to: Math.max(p.expected!.to, p.expected!.from),
        text: pick(p.expected!.text),
        step: p.step,
        title: `expected ${p.expected!.text}${p.expected!.to > p.expected!.from ? ` for ${brief(p.expected!.to - p.expected!.from)}` : ''}`,
      }))
    const steps = new Map((sequence?.lanes ?? []).filter((p) => p.seen).map((p) => [p.seen!.from, p.step]))
    const seen: Bar[] = track.frames.map((f) => ({
      from: f.from,
      to: f.to,
      text: pick(f.text),
      step: steps.get(f.from),
      title: `${f.text} from ${seconds(f.from)} for ${brief(f.to - f.from)}`,
    }))
    const first = verdicts.map((v) => v.first?.at).filter((t) => t !== undefined)
    const expected = bars(sequence?.lanes ?? [])
    const reads = bars(verdicts.filter((v) => v !== sequence).flatMap((v) => v.lanes ?? []))
    const tall = !!track.look.grid
    if (reads.length) out.push({ label: `${track.display}, to read`, bars: reads, tall })
    if (expected.length) out.push({ label: `${track.display}, expected`, bars: expected, tall })
    out.push({ label: `${track.display}, seen`, bars: seen, tall, first: first.length ? Math.min(...first) : undefined })
  }
  if (reel.cues?.length) {
    out.push({
      label: 'cues',
      bars: reel.cues.map((c) => ({ from: c.start, to: c.end, text: c.text, title: `${c.text} for ${brief(c.end - c.start)}` })),
    })
  }
  for (const part of [...new Set(reel.log?.map((e) => e.part))]) {
    const bursts = new Map<number, Entry[]>()
    for (const e of reel.log!) {
      const slot = Math.floor((e.at / reel.length) * maxBars)
      if (e.part === part) bursts.set(slot, [...(bursts.get(slot) ?? []), e])
    }
    out.push({
      label: `${part}, bus`,
      bars: [...bursts.values()].map((b) => ({
        from: b[0].at,
        to: b[b.length - 1].at,
        text: '',
        title: `${seconds(b[0].at)} ${tell(b[0])}${b.length > 1 ? `, and ${b.length - 1} more` : ''}`,
      })),
    })
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

const zooms = [1, 2, 4, 8, 16, 32]

// Lanes draws all lanes on one time axis; a click anywhere goes to that time.
export function Lanes({ lanes, length, time, seek }: { lanes: Lane[]; length: number; time: number; seek: (t: number) => void }) {
  const [zoom, setZoom] = useState(1)
  const at = (t: number) => `${(Math.min(t, length) / length) * 100}%`
  const go = (e: React.MouseEvent<HTMLDivElement>) => {
    const box = e.currentTarget.getBoundingClientRect()
    seek(((e.clientX - box.left) / box.width) * length)
  }
  return (
    <section aria-label="time lanes" className="flex border-t-2 border-ink pt-2">
      <div className="w-40 shrink-0 pr-2">
        <div className="flex h-8 items-center gap-1 text-sm text-slate">
          zoom
          <button type="button" className="quiet" disabled={zoom === 1} onClick={() => setZoom(zooms[zooms.indexOf(zoom) - 1])} aria-label="wider">
            −
          </button>
          <span className="w-8 text-center">{zoom}×</span>
          <button type="button" className="quiet" disabled={zoom === zooms.at(-1)} onClick={() => setZoom(zooms[zooms.indexOf(zoom) + 1])} aria-label="closer">
            +
          </button>
        </div>
        {lanes.map((l) => (
          <div key={l.label} className={`flex ${l.tall ? 'h-13' : 'h-9'} items-center truncate border-t border-line text-sm text-slate`}>
            {l.label}
          </div>
        ))}
      </div>
      <div className="min-w-0 grow overflow-x-auto overflow-y-hidden">
        <div className="relative cursor-crosshair pb-4" style={{ width: `${zoom * 100}%` }} onClick={go}>
          <div className="h-8">
            {ruler(length / zoom)
              .flatMap((t) => (zoom === 1 ? [t] : Array.from({ length: zoom }, (_, i) => t + (i * length) / zoom)))
              .filter((t, i, all) => all.indexOf(t) === i && t < length * 0.985)
              .map((t) => (
                <span key={t} className="absolute top-0 h-8 border-l border-line pl-1 font-mono text-[13px] text-slate" style={{ left: at(t) }}>
                  {`${+(t / second).toFixed(3)} s`}
                </span>
              ))}
          </div>
          {lanes.map((l) => (
            <div key={l.label} className={`relative ${l.tall ? 'h-13' : 'h-9'} border-t border-line`}>
              {l.bars.map((b, i) => (
                <span
                  key={i}
                  title={b.title}
                  className={`absolute top-1 overflow-hidden border-l-2 border-current pl-1 text-[13px] whitespace-pre ${l.tall ? 'h-11 leading-[22px]' : 'h-7 leading-7'} ${b.step ? stepColour[b.step] : 'text-slate'}`}
                  style={{ left: at(b.from), width: `max(3px, ${((Math.min(b.to, length) - Math.min(b.from, length)) / length) * 100}%)` }}
                >
                  <span className="absolute inset-0 bg-current opacity-10" />
                  <span className="relative text-ink">{l.tall ? b.text.replaceAll('" / "', '"\n"') : b.text}</span> {b.step && <span className="relative">{stepMark[b.step]}</span>}
                </span>
              ))}
              {l.first !== undefined && (
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
          <span className="pointer-events-none absolute top-0 bottom-0 w-px bg-bottle" style={{ left: at(time) }} />
        </div>
      </div>
    </section>
  )
}
