// The types of the API as it sends them (wire/, core/sheet, core/reel).

export interface Exercise {
  name: string
  title: string
  brief: string
  revision: number
  marks: number
  submissions: number
  waiting: number
  students: number
  mean?: number
}

export type State = 'queued' | 'running' | 'marked' | 'failed'

export interface Submission {
  id: string
  exercise: string
  revision: number
  student: string
  file: string
  attempt: number
  state: State
  error?: string
  marks?: number
  of?: number
  met: number
  partly: number
  missed: number
  first?: string
  submitted: string
}

export interface Result extends Submission {
  title: string
  sheet?: Sheet
  previous?: string
  next?: string
}

export interface Sheet {
  marks: number
  of: number
  failed?: string
  messages?: Message[]
  trials: Trial[]
  findings: Finding[]
}

export interface Message {
  file?: string
  line?: number
  column?: number
  kind: string
  text: string
  code?: string
}

export interface Source {
  file: string
  line: number
}

export interface Stop {
  reason: string
  text: string
  at: number
}

export interface Trial {
  name: string
  length: number
  marks: number
  of: number
  verdicts: Verdict[]
  stop?: Stop
}

export type Outcome = 'met' | 'partly' | 'missed' | 'not judged'

export interface Verdict {
  expectation: string
  kind: string
  marks: number
  of: number
  outcome: Outcome
  display?: string
  evidence?: string[]
  lanes?: Pair[]
  first?: Difference
  source?: Source
}

export type Step = 'right' | 'mistimed' | 'wrong' | 'missing' | 'extra' | 'ignored'

export interface Pair {
  step: Step
  expected?: Span
  seen?: Span
}

export interface Span {
  from: number
  to: number
  text: string
  sight?: Sight
}

export interface Difference {
  at: number
  expected: string
  seen: string
}

export interface Finding {
  code: string
  text: string
  trial: string
  at: number
  evidence: string[]
  mended?: number // the marks of the sheet with this one thing mended
  fidelity?: string
  restored?: number
  source?: Source
}

export interface Reel {
  trial: string
  length: number
  tracks: Track[]
  cues?: Cue[]
  stop?: Stop
  serial?: string
  log?: Entry[]
  unlogged?: number
}

export interface Entry {
  at: number
  part: string
  what: string
  data?: number[]
}

export interface Cue {
  name?: string
  verb: string
  part: string
  text: string
  start: number
  end: number
}

export interface Track {
  display: string
  kind: string
  look: Look
  frames: Frame[]
  custom?: number[][]
  quality?: { refresh?: number; evenness?: number; ghost?: number }
}

export interface Frame {
  from: number
  to: number
  text: string
  sight: Sight
}

export interface Sight {
  lights?: string // one digit a light: 0 dark, 1 lit, 2 dim
  levels?: number[]
  cells?: number[]
  pixels?: string // base64: pages of eight rows, a byte for each column, bit 0 on top
  pitch?: number
  line?: string
  cursor?: { cell: number; block: boolean }
  flicker?: boolean
}

export interface Look {
  form: 'lamp' | 'digits' | 'bar' | 'colour' | 'matrix' | 'text' | 'pixels' | 'sound' | 'lines'
  width: number
  height: number
  shapes?: Shape[]
  pixels?: { columns: number; rows: number; ink: string }
  grid?: { columns: number; rows: number; back: string; ink: string; faint: string }
}

export interface Shape {
  light: number
  name: string
  color: string
  points?: [number, number][]
  circle?: { x: number; y: number; r: number }
}
