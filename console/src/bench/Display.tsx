import { memo } from 'react'
import type { Look, Shape, Sight, Track } from '../types'

interface Props {
  look: Look
  sight?: Sight
  custom?: number[][]
  rom?: number[][]
  label: string
}

// Display draws a display as it looks, in its dark well: from the drawing that the reel carries.
export const Display = memo(function Display({ look, sight, custom, rom, label }: Props) {
  return (
    <svg viewBox={`0 0 ${look.width} ${look.height}`} role="img" aria-label={label} className="h-full w-full">
      <Drawing look={look} sight={sight} custom={custom} rom={rom} />
    </svg>
  )
})

function Drawing({ look, sight, custom, rom }: Omit<Props, 'label'>) {
  switch (look.form) {
    case 'text':
      return <Characters look={look} sight={sight} custom={custom} rom={rom} />
    case 'pixels':
      return <Pixels look={look} sight={sight} />
    case 'sound':
      return <Sounder look={look} sight={sight} />
    case 'lines':
      return (
        <text x={12} y={38} fontFamily="monospace" fontSize={22} fill="#cfe8d8">
          {sight?.line}
        </text>
      )
  }
  return look.shapes?.map((s, i) => <Light key={i} shape={s} state={sight?.lights?.[s.light] ?? '0'} level={sight?.levels?.[s.light] ?? 0} />)
}

// A graphic display has square pixels, as bright as it shines.
function Pixels({ look, sight }: Pick<Props, 'look' | 'sight'>) {
  const { columns, ink } = look.pixels!
  const bytes = atob(sight?.pixels ?? '')
  let d = ''
  for (let i = 0; i < bytes.length; i++) {
    const column = bytes.charCodeAt(i)
    for (let k = 0; k < 8; k++) if ((column >> k) & 1) d += `M${20 + (i % columns) * 4} ${20 + (Math.floor(i / columns) * 8 + k) * 4}h3.4v3.4h-3.4z`
  }
  return (
    <g>
      <rect width={look.width} height={look.height} rx={4} fill="#05080a" stroke="#2c3a3a" />
      <path d={d} fill={ink} fillOpacity={0.35 + (0.65 * (sight?.levels?.[0] ?? 255)) / 255} />
    </g>
  )
}

// A sounder has waves and its pitch while it sounds.
function Sounder({ look, sight }: Pick<Props, 'look' | 'sight'>) {
  const { circle, color } = look.shapes![0]
  const { x, y, r } = circle!
  return (
    <g>
      <circle cx={x} cy={y} r={r} fill="#241c19" stroke="#5a4a44" />
      <circle cx={x} cy={y} r={4} fill="#5a4a44" />
      {sight?.pitch && [10, 15, 20].map((wave) => <circle key={wave} cx={x} cy={y} r={wave} fill="none" stroke={color} strokeWidth={1.5} />)}
      {sight?.pitch && (
        <text x={x} y={look.height - 4} fontFamily="monospace" fontSize={9} textAnchor="middle" fill={color}>
          {sight.pitch} Hz
        </text>
      )}
    </g>
  )
}

// A light has three visible states: lit with a soft halo, dim, or dark but outlined. It is drawn anew only when it changes.
const Light = memo(function Light({ shape, state, level }: { shape: Shape; state: string; level: number }) {
  const fill = state === '0' ? 'transparent' : shape.color
  const bright = Math.sqrt(level / 255)
  const opacity = state === '1' ? 0.55 + 0.45 * bright : 0.15 + 0.25 * bright
  const body = (extra: object) =>
    shape.circle ? (
      <circle cx={shape.circle.x} cy={shape.circle.y} r={shape.circle.r} {...extra} />
    ) : (
      <polygon points={shape.points?.map((p) => p.join(',')).join(' ')} {...extra} />
    )
  return (
    <g>
      {state === '1' && body({ fill: 'none', stroke: shape.color, strokeOpacity: 0.22, strokeWidth: 7, strokeLinejoin: 'round' })}
      {body({ fill: '#241c19', stroke: '#5a4a44', strokeWidth: 0.7 })}
      {state !== '0' && body({ fill, fillOpacity: opacity })}
    </g>
  )
})

const dot = 8
const gap = 1
const across = 5 * (dot + gap) + 4
const down = 8 * (dot + gap) + 8
const hollow = [31, 17, 17, 17, 17, 17, 31, 0]
const washedOut = 0x8000

const square = (x: number, y: number) => `M${x} ${y}h${dot}v${dot}h-${dot}z`

// AllDots is every dot of a display: those that are not set are just visible.
const AllDots = memo(function AllDots({ columns, rows, fill }: { columns: number; rows: number; fill: string }) {
  let d = ''
  for (let i = 0; i < columns * rows; i++)
    for (let k = 0; k < 40; k++) d += square((i % columns) * across + (k % 5) * (dot + gap), Math.floor(i / columns) * down + Math.floor(k / 5) * (dot + gap))
  return <path d={d} fill={fill} />
})

// Character is the set dots of one cell; it is drawn anew only when it changes.
const Character = memo(function Character({ x, y, dots, cursor, ink, faded }: { x: number; y: number; dots?: number[]; cursor?: 'block' | 'line'; ink: string; faded: boolean }) {
  let d = ''
  for (let row = 0; row < 8; row++)
    for (let col = 0; col < 5; col++)
      if (((dots?.[row] ?? 0) >> (4 - col)) & 1 || cursor === 'block' || (cursor === 'line' && row === 7)) d += square(x + col * (dot + gap), y + row * (dot + gap))
  return <path d={d} fill={ink} fillOpacity={faded ? 0.4 : 1} />
})

// namedCell begins the custom characters that the exercise has a letter for: what is expected.
const namedCell = 0x4000

// A character display has real dots, with those that are not set just visible.
function Characters({ look, sight, custom, rom }: Pick<Props, 'look' | 'sight' | 'custom' | 'rom'>) {
  const grid = look.grid!
  const [width, height] = [grid.columns * across, grid.rows * down]
  const scale = Math.min((look.width - 60) / width, (look.height - 50) / height)
  return (
    <g>
      <rect width={look.width} height={look.height} rx={6} fill="#20281a" />
      <rect x={14} y={12} width={look.width - 28} height={look.height - 24} rx={4} fill={grid.back} />
      <g transform={`translate(${(look.width - (width - 4) * scale) / 2} ${(look.height - (height - 8) * scale) / 2}) scale(${scale})`}>
        <AllDots columns={grid.columns} rows={grid.rows} fill={grid.faint} />
        {Array.from({ length: grid.columns * grid.rows }, (_, i) => {
          const cell = sight?.cells?.[i] ?? 32
          const code = cell & 0x7fff
          const cursor = sight?.cursor?.cell === i ? (sight.cursor.block ? 'block' : 'line') : undefined
          const dots = code >= namedCell && code < 0x7fff ? grid.characters?.[code - namedCell]?.dots : code >= 0x100 ? (custom?.[code - 0x100] ?? hollow) : rom?.[code]
          return <Character key={i} x={(i % grid.columns) * across} y={Math.floor(i / grid.columns) * down} dots={dots} cursor={cursor} ink={grid.ink} faded={!!(cell & washedOut)} />
        })}
      </g>
    </g>
  )
}

// The frame of a track that is shown at a moment.
export function frameAt(track: Pick<Track, 'frames'>, t: number) {
  const { frames } = track
  let low = 0
  let high = frames.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (frames[middle].from <= t) low = middle
    else high = middle - 1
  }
  return frames[low]
}
