import type { Geometry, State } from '../../types'

// What it takes to draw a display.
export interface Drawn {
  geometry: Geometry
  state?: State
  custom?: number[][] // the dots of its custom characters
  rom?: number[][] // the dots of all others
}
