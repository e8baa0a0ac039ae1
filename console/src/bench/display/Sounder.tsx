import type { Drawn } from './drawn'

// A sounder has waves and its pitch while it sounds.
export function Sounder({ geometry, state }: Drawn) {
  const { circle, color } = geometry.shapes![0]
  const { x, y, r } = circle!
  return (
    <g>
      <circle cx={x} cy={y} r={r} fill="#241c19" stroke="#5a4a44" />
      <circle cx={x} cy={y} r={4} fill="#5a4a44" />
      {state?.pitch &&
        [10, 15, 20].map((wave) => (
          <circle key={wave} cx={x} cy={y} r={wave} fill="none" stroke={color} strokeWidth={1.5} />
        ))}
      {state?.pitch && (
        <text x={x} y={geometry.height - 4} fontFamily="monospace" fontSize={9} textAnchor="middle" fill={color}>
          {state.pitch} Hz
        </text>
      )}
    </g>
  )
}
