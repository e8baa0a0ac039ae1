import type { Track } from '../types'

// What a page and the worker that simulates say to each other. Times are in ns.

// Control is something that can be done to a part, as live/live.go describes it.
export interface Control {
  part: string
  label: string
  key: string
  verb: 'hold' | 'turn' | 'set' | 'type'
  values?: string[]
  at: number
}

export interface Description {
  title: string
  displays: Track[]
  controls: Control[]
}

export type Request =
  | { kind: 'open'; exercise: string; firmware: ArrayBuffer; trial: number }
  | { kind: 'run'; running: boolean }
  | { kind: 'speed'; speed: number }
  | { kind: 'step' } // to the next state of a display
  | { kind: 'do'; control: number; release?: boolean; to?: string }

export type Answer =
  | { kind: 'opened'; trials: string[]; bench: Description }
  | { kind: 'shown'; now: number; displays?: Track[]; serial?: string; share: number; running: boolean; stop: string }
  | { kind: 'failed'; error: string }
