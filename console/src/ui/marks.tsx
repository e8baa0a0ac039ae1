import type { Outcome, Sheet, Operation, Submission } from '../types'

// A verdict is a word and a mark in the margin; colour only repeats it.
export const outcomeMark: Record<Outcome, string> = { met: '✓', partly: '≈', missed: '✗', 'not judged': '·' }
export const outcomeColour: Record<Outcome, string> = {
  met: 'text-moss',
  partly: 'text-amber',
  missed: 'text-brick',
  'not judged': 'text-slate',
}

export const stepMark: Record<Operation, string> = {
  right: '✓',
  mistimed: '≈',
  near: '≈',
  wrong: '✗',
  missing: '✗',
  extra: '+',
  ignored: '·',
}
export const stepColour: Record<Operation, string> = {
  right: 'text-moss',
  mistimed: 'text-amber',
  near: 'text-amber',
  wrong: 'text-brick',
  missing: 'text-brick',
  extra: 'text-brick',
  ignored: 'text-slate',
}

export function Tally({ met, partly, missed }: { met: number; partly: number; missed: number }) {
  return (
    <span className="whitespace-nowrap">
      <span className={met ? 'text-moss' : 'text-slate'}>met {met}</span>
      <span className="text-slate"> · </span>
      <span className={partly ? 'text-amber' : 'text-slate'}>partly {partly}</span>
      <span className="text-slate"> · </span>
      <span className={missed ? 'text-brick' : 'text-slate'}>missed {missed}</span>
    </span>
  )
}

// The states of a submission in words.
export const states: Record<string, string> = {
  queued: 'waiting',
  running: 'being marked',
  marked: 'marked',
  failed: 'quarantined',
  cancelled: 'cancelled',
}

// The sign and the colour of a submission as a whole.
export function sign(s: Submission): [string, string] {
  if (s.state !== 'marked') return s.state === 'failed' ? ['✗', 'text-brick'] : ['·', 'text-slate']
  if (s.met > 0 && !s.partly && !s.missed) return ['✓', 'text-moss']
  if (s.marks !== undefined && Number(s.marks) === 0) return ['✗', 'text-brick']
  return s.met + s.partly + s.missed || s.marks !== undefined ? ['≈', 'text-amber'] : ['·', 'text-slate']
}

// differences are the expectations that came out otherwise on two sheets of the same exercise.
export function differences(before: Sheet, now: Sheet): { what: string; was: Outcome; now: Outcome }[] {
  return now.trials.flatMap((t) => {
    const old = before.trials.find((b) => b.name === t.name)
    return t.verdicts.flatMap((v, i) => {
      const was =
        old?.verdicts[i]?.expectation === v.expectation
          ? old.verdicts[i]
          : old?.verdicts.find((o) => o.expectation === v.expectation)
      return was && was.outcome !== v.outcome
        ? [{ what: `${t.name}: ${v.expectation}`, was: was.outcome, now: v.outcome }]
        : []
    })
  })
}
