import type { Track, Tried } from '../types'

// What a page and the worker that simulates say to each other. Times are in ns.

// Control is something that can be done to a part, as live/live.go describes it.
export interface Control {
  part: string
  label: string
  key: string
  verb: 'hold' | 'turn' | 'set' | 'type'
  values?: string[]
  at: number
  of?: string // which key of a keypad
  by?: number // detents of a turn
}

// Doing is one thing that was done by hand, as core/author takes it. Its time is in ps.
export interface Doing {
  at: number
  part: string
  verb: Control['verb']
  release: boolean
  of?: string
  by?: number
  to?: string
}

// Shown is what a display shows now; what it is made of stands in the description.
export type Shown = Pick<Track, 'display' | 'custom' | 'frames'>

export interface Description {
  title: string
  displays: Track[]
  controls: Control[]
}

// Scope is a stretch of time of all nets, up to a moment; now where there is none.
export interface Scope {
  width: number
  columns: number
  end?: number
}

// Trace is a net over that stretch: for each column 0, 1, z (floating), ~ (between), x (fought over), # (several
// changes) or a space (not known any more). Of a bus it has what was sent, by the column in which that ended; more is
// how many others ended there, too.
export interface Trace {
  net: string
  columns?: string
  bus?: boolean
  sent?: { column: number; text: string; more?: number }[]
}

// Port is a serial port of the chip with what it sent.
export interface Port {
  name: string
  text: string
}

export type Request =
  | { kind: 'open'; exercise: string; wiring: string; firmware: ArrayBuffer; trial: number; from: number }
  // where from is more than 0, the trial's cues happen until then, and hands go on
  | { kind: 'run'; running: boolean }
  | { kind: 'speed'; speed: number }
  | { kind: 'step' } // to the next state of a display
  | { kind: 'do'; control: number; release?: boolean; to?: string }
  | { kind: 'edge' } // to the next change of a net, where a probe is at the bench
  | { kind: 'look'; driven: boolean; scope?: Scope } // puts a probe to the bench, where one is needed
  | { kind: 'check'; name: string; marks: boolean } // marks the trials that are there
  | { kind: 'end' } // pauses, and tells what was done since power-on

export type Answer =
  | { kind: 'opened'; trials: string[]; bench: Description }
  | {
      kind: 'shown'
      now: number
      displays?: Shown[] // those that changed
      serial?: Port[]
      traces?: Trace[]
      until?: number // where the traces end
      share: number
      running: boolean
      stop: string
    }
  | { kind: 'checked'; tried: Tried }
  | { kind: 'ended'; length: number; done: Doing[] } // the length in ps
  | { kind: 'failed'; error: string }
