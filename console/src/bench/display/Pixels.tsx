import type { Drawn } from './drawn'

// A graphic display has square pixels, as bright as it shines.
export function Pixels({ geometry, state }: Drawn) {
  const { columns, ink } = geometry.pixels!
  const bytes = atob(state?.pixels ?? '')
  let d = ''
  for (let i = 0; i < bytes.length; i++) {
    const column = bytes.charCodeAt(i)
    for (let k = 0; k < 8; k++)
      if ((column >> k) & 1)
        d += `M${20 + (i % columns) * 4} ${20 + (Math.floor(i / columns) * 8 + k) * 4}h3.4v3.4h-3.4z`
  }
  return (
    <g>
      <rect width={geometry.width} height={geometry.height} rx={4} fill="#05080a" stroke="#2c3a3a" />
      <path d={d} fill={ink} fillOpacity={0.35 + (0.65 * (state?.levels?.[0] ?? 255)) / 255} />
    </g>
  )
}
