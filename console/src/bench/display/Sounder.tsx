import type { Drawn } from './drawn'

// A sounder has waves and its pitch while it sounds.
export function Sounder({ look, sight }: Drawn) {
  const { circle, color } = look.shapes![0]
  const { x, y, r } = circle!
  return (
    <g>
      <circle cx={x} cy={y} r={r} fill="#241c19" stroke="#5a4a44" />
      <circle cx={x} cy={y} r={4} fill="#5a4a44" />
      {sight?.pitch &&
        [10, 15, 20].map((wave) => (
          <circle key={wave} cx={x} cy={y} r={wave} fill="none" stroke={color} strokeWidth={1.5} />
        ))}
      {sight?.pitch && (
        <text x={x} y={look.height - 4} fontFamily="monospace" fontSize={9} textAnchor="middle" fill={color}>
          {sight.pitch} Hz
        </text>
      )}
    </g>
  )
}
