// The types of the API: those of its document as they are generated, and those of sheets and reels, which have formats of
// their own (core/sheet, core/reel).

import type { components } from './api-types'

type Schemas = components['schemas']
export type Class = Schemas['Class']
export type Opening = Schemas['Opening']
export type Submission = Schemas['Submission']
export type Place = Schemas['Place']
export type Receipt = Schemas['Receipt']
export type Session = Schemas['Session']
export type Result = Omit<Schemas['Result'], 'sheet'> & { sheet?: Sheet }
export type Access = Schemas['Access']
export type Account = Schemas['Account']
export type Alike = Schemas['Alike']
export type AuditEntry = Schemas['AuditEntry']
export type Brief = Omit<Schemas['Brief'], 'schematic'> & Drawn
export type Bulk = Schemas['Bulk']
export type BulkFile = Schemas['BulkFile']
export type Columns = Schemas['Columns']
export type Compared = Schemas['Compared']
export type Checked = Omit<Schemas['Checked'], 'schematic'> & Drawn
export type Exercise = Schemas['Exercise']
export type Extension = Schemas['Extension']
export type Gradebook = Schemas['Gradebook']
export type Library = Schemas['Library']
export type Links = Schemas['Links']
export type Member = Schemas['Member']
export type OneTime = Schemas['OneTime']
export type Phrase = Schemas['Phrase']
export type Proposal = Schemas['Proposal']
export type QueueState = Schemas['QueueState']
export type Reference = Schemas['Reference']
export type Revision = Schemas['Revision']
export type RosterChange = Schemas['RosterChange']
export type Routine = Schemas['Routine']
export type Statistics = Schemas['Statistics']
export type Tried = { sheet: Sheet; reels: Reel[] }
export type Recorded = Schemas['Recorded']
export type Variant = Schemas['Variant']
export type Accepted = Schemas['Accepted']
export type SourceFile = Schemas['SourceFile']
export type ProposedMark = Schemas['ProposedMark']
export type Filled = Schemas['Filled']
export type Page<T> = { items: T[]; next?: string; total: number }

export interface Given {
  marks: number
  reason: string
  by: string
}

export interface Sheet {
  marks: number
  exact?: number // what marks was rounded from, where that is another number
  of: number
  unmarked?: boolean
  given?: Given
  by_hand?: { what: string; of: number; notes?: string; given?: Given }[]
  values?: { name: string; value: string }[]
  failed?: string
  messages?: Message[]
  trials: Trial[]
  findings: Finding[]
}

// The bench of an exercise: a circuit diagram (core/schematic), and what is wired where.
export interface Drawn {
  schematic?: Schematic
  wires?: Schemas['Wire'][]
}

export interface Schematic {
  width: number
  height: number
  strokes: string[]
  fills: string[]
  texts: { x: number; y: number; text: string; anchor: 'start' | 'middle' | 'end'; role: string }[]
}

// A stretch of a run with the eye off.
export interface Window {
  from: number
  to: number
  left: number
  moments: Moment[]
}

export interface Moment {
  at: number
  nets?: Record<string, string>
  sights?: Record<string, Sight>
  source?: string
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
  hidden?: boolean
  notes?: string
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
  given?: Given
  notes?: string
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
  of?: string[] // of a group: the displays that it is made of
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
  form: 'lamp' | 'digits' | 'bar' | 'colour' | 'matrix' | 'text' | 'pixels' | 'sound' | 'lines' | 'group'
  width: number
  height: number
  shapes?: Shape[]
  pixels?: { columns: number; rows: number; ink: string }
  grid?: { columns: number; rows: number; back: string; ink: string; faint: string; characters?: { letter: string; dots: number[] }[] }
}

export interface Shape {
  light: number
  name: string
  color: string
  points?: [number, number][]
  circle?: { x: number; y: number; r: number }
}
