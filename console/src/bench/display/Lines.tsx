import type { Drawn } from './drawn'

// A terminal shows its latest line.
export function Lines({ state }: Drawn) {
  return (
    <text x={12} y={38} fontFamily="monospace" fontSize={22} fill="#cfe8d8">
      {state?.line}
    </text>
  )
}
