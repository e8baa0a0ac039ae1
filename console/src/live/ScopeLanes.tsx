import { ZoomIn, ZoomOut } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { brief, seconds } from '../time'
import type { Trace } from './protocol'

export const columns = 600

// How much time a scope shows, in ns: from a microsecond to a minute.
export const widths = [
  1e3, 2e3, 5e3, 1e4, 2e4, 5e4, 1e5, 2e5, 5e5, 1e6, 2e6, 5e6, 1e7, 2e7, 5e7, 1e8, 2e8, 5e8, 1e9, 2e9, 5e9, 1e10, 2e10,
  6e10,
]

interface Props {
  traces: Trace[]
  until: number // ns
  width: number // ns
  setWidth: (w: number) => void
  still: boolean // time stands: one may look back
  move?: (by: number) => void // by parts of the width
}

// ScopeLanes are the levels of all nets over a stretch of time that ends at a moment.
export function ScopeLanes({ traces, until, width, setWidth, still, move }: Props) {
  const at = widths.indexOf(width)
  return (
    <section aria-label="scope" className="mt-4 border-t-2 border-ink pt-2">
      <div className="flex flex-wrap items-center gap-x-4 text-sm">
        <button
          type="button"
          className="quiet"
          aria-label="less time"
          disabled={at <= 0}
          onClick={() => setWidth(widths[at - 1])}
        >
          <ZoomIn size={18} />
        </button>
        <button
          type="button"
          className="quiet"
          aria-label="more time"
          disabled={at >= widths.length - 1}
          onClick={() => setWidth(widths[at + 1])}
        >
          <ZoomOut size={18} />
        </button>
        <output aria-label="width of the scope" className="font-mono">
          {brief(width * 1000)}
        </output>
        <span className="text-slate">up to {seconds(until * 1000)}</span>
        {still && move && (
          <>
            <button type="button" className="quiet" onClick={() => move(-0.5)}>
              ‹ earlier
            </button>
            <button type="button" className="quiet" onClick={() => move(0.5)}>
              later ›
            </button>
          </>
        )}
      </div>
      <ul className="max-h-96 overflow-y-auto" tabIndex={0} aria-label="buses and nets">
        {traces.map((t) => (
          <li key={t.net} className="flex items-center gap-3 border-b border-line py-0.5">
            <span className="w-28 shrink-0 truncate font-mono text-sm" title={t.net}>
              {t.net}
            </span>
            {t.bus ? <Bus trace={t} /> : <Wave trace={t} />}
          </li>
        ))}
      </ul>
    </section>
  )
}

const words: Record<string, string> = {
  '0': 'low',
  '1': 'high',
  z: 'floating',
  '~': 'between',
  x: 'fought over',
  '#': 'changing',
  ' ': 'not known',
}

function Wave({ trace: { net, columns = '' } }: { trace: Trace }) {
  return (
    <Lane label={`${net} is ${words[columns.at(-1) ?? ' ']}`} changed={columns} draw={(g) => drawLevels(g, columns)} />
  )
}

// Bus is what went over one: a mark where each byte or command ended, and its words where there is room before the next.
function Bus({ trace: { net, sent = [] } }: { trace: Trace }) {
  const last = sent.at(-1)
  return (
    <div className="relative min-w-0 grow">
      <Lane
        label={last ? `${net}: ${last.text} was sent last` : `${net}: nothing was sent`}
        changed={JSON.stringify(sent)}
        draw={(g) => drawSent(g, sent)}
      />
      {sent.map(({ column, text, more }, i) => {
        const room = (sent[i + 1]?.column ?? columns) - column
        return (
          !more &&
          room > least && (
            <span
              key={column}
              aria-hidden
              title={text}
              className="absolute top-0.5 hidden truncate pl-1 font-mono text-xs md:inline"
              style={{ left: `${(column / columns) * 100}%`, width: `${(room / columns) * 100}%` }}
            >
              {text}
            </span>
          )
        )
      })}
    </div>
  )
}

// least is how many columns the words of what was sent must have: two figures fit there.
const least = 22

// Lane is drawn anew when what it shows changed.
function Lane({
  label,
  changed,
  draw,
}: {
  label: string
  changed: string
  draw: (g: CanvasRenderingContext2D) => void
}) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const c = canvas.current
    const g = c?.getContext('2d')
    if (!c || !g) return
    g.clearRect(0, 0, c.width, c.height)
    g.fillStyle = getComputedStyle(c).color
    draw(g)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- draw is another function each time
  }, [changed])
  return (
    <canvas
      ref={canvas}
      width={columns}
      height={22}
      className="h-[22px] w-full min-w-0 text-bottle"
      role="img"
      aria-label={label}
    />
  )
}

const top = 3
const bottom = 19

function drawSent(g: CanvasRenderingContext2D, sent: NonNullable<Trace['sent']>) {
  for (const { column, more } of sent) {
    g.globalAlpha = more ? 1 : 0.6
    g.fillRect(column, top, more ? 2 : 1, bottom - top + 1)
  }
  g.globalAlpha = 1
}

// drawLevels has levels as lines, changes that are too close to tell as blocks, and what nobody drives as dashes in the middle.
function drawLevels(g: CanvasRenderingContext2D, levels: string) {
  let before = -1
  for (let x = 0; x < levels.length; x++) {
    const level = levels[x]
    let y = level === '1' ? top : level === '0' ? bottom : (top + bottom) / 2
    switch (level) {
      case '#':
        g.globalAlpha = 0.45
        g.fillRect(x, top, 1, bottom - top + 1)
        g.globalAlpha = 1
        y = -1
        break
      case ' ':
        y = -1
        break
      case 'x':
        g.fillRect(x, top, 1, 2)
        g.fillRect(x, bottom, 1, 2)
        break
      case 'z':
        if (x % 4 < 2) g.fillRect(x, y, 1, 1)
        break
      default:
        g.fillRect(x, y, 1, 1.5)
    }
    if (before >= 0 && y >= 0 && y !== before) g.fillRect(x, Math.min(y, before), 1, Math.abs(y - before) + 1)
    before = y
  }
}
