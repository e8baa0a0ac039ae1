import type { Look, Sight } from '../../types'

// What it takes to draw a display.
export interface Drawn {
  look: Look
  sight?: Sight
  custom?: number[][] // the dots of its custom characters
  rom?: number[][] // the dots of all others
}
