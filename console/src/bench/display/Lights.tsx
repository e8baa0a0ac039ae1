import { memo } from 'react'
import type { Shape } from '../../types'
import type { Drawn } from './drawn'

// What has lights is drawn as its lights.
export function Lights({ geometry, state }: Drawn) {
  return geometry.shapes?.map((s, i) => (
    <Light key={i} shape={s} state={state?.lights?.[s.light] ?? '0'} level={state?.levels?.[s.light] ?? 0} />
  ))
}

// A light has three visible states: lit with a soft halo, dim, or dark but outlined. It is redrawn only when it changes.
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
      {state === '1' &&
        body({ fill: 'none', stroke: shape.color, strokeOpacity: 0.22, strokeWidth: 7, strokeLinejoin: 'round' })}
      {body({ fill: '#241c19', stroke: '#5a4a44', strokeWidth: 0.7 })}
      {state !== '0' && body({ fill, fillOpacity: opacity })}
    </g>
  )
})
