import { memo } from 'react'
import type { Drawn } from './drawn'

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
    for (let k = 0; k < 40; k++)
      d += square(
        (i % columns) * across + (k % 5) * (dot + gap),
        Math.floor(i / columns) * down + Math.floor(k / 5) * (dot + gap),
      )
  return <path d={d} fill={fill} />
})

// Character is the set dots of one cell; it is redrawn only when it changes.
const Character = memo(function Character({
  x,
  y,
  dots,
  cursor,
  ink,
  faded,
}: {
  x: number
  y: number
  dots?: number[]
  cursor?: 'block' | 'line'
  ink: string
  faded: boolean
}) {
  let d = ''
  for (let row = 0; row < 8; row++)
    for (let col = 0; col < 5; col++)
      if (((dots?.[row] ?? 0) >> (4 - col)) & 1 || cursor === 'block' || (cursor === 'line' && row === 7))
        d += square(x + col * (dot + gap), y + row * (dot + gap))
  return <path d={d} fill={ink} fillOpacity={faded ? 0.4 : 1} />
})

// namedCell begins the custom characters that the exercise has a letter for: what is expected.
const namedCell = 0x4000

// A character display has real dots, with those that are not set just visible.
export function Characters({ geometry, state, custom, rom }: Drawn) {
  const grid = geometry.grid!
  const [width, height] = [grid.columns * across, grid.rows * down]
  const scale = Math.min((geometry.width - 60) / width, (geometry.height - 50) / height)
  return (
    <g>
      <rect width={geometry.width} height={geometry.height} rx={6} fill="#20281a" />
      <rect x={12} y={12} width={geometry.width - 24} height={geometry.height - 24} rx={4} fill={grid.back} />
      <g
        transform={`translate(${(geometry.width - (width - 4) * scale) / 2} ${(geometry.height - (height - 8) * scale) / 2}) scale(${scale})`}
      >
        <AllDots columns={grid.columns} rows={grid.rows} fill={grid.faint} />
        {Array.from({ length: grid.columns * grid.rows }, (_, i) => {
          const cell = state?.cells?.[i] ?? 32
          const code = cell & 0x7fff
          const cursor = state?.cursor?.cell === i ? (state.cursor.block ? 'block' : 'line') : undefined
          const dots =
            code >= namedCell && code < 0x7fff
              ? grid.characters?.[code - namedCell]?.dots
              : code >= 0x100
                ? (custom?.[code - 0x100] ?? hollow)
                : rom?.[code]
          return (
            <Character
              key={i}
              x={(i % grid.columns) * across}
              y={Math.floor(i / grid.columns) * down}
              dots={dots}
              cursor={cursor}
              ink={grid.ink}
              faded={!!(cell & washedOut)}
            />
          )
        })}
      </g>
    </g>
  )
}
