import { expect, test } from 'vitest'
import { trace } from '../bench/Lanes'
import type { Sheet, Window } from '../types'
import { differences } from '../ui/marks'
import { read, sourceAt } from './seen'

const window: Window = {
  from: 1000,
  to: 9000,
  left: 0,
  moments: [
    { at: 1000, nets: { PB10: 'low', PB2: 'high', VCC: 'high' }, states: { count: { lights: '00' } } },
    { at: 3000, nets: { PB2: 'low' }, states: { count: { lights: '10' } }, source: 'digits.h:45' },
    { at: 5000, nets: { PB2: 'pulled high' }, source: '0x0040' },
  ],
}

test('moments become frames of each display and waves of each net', () => {
  const seen = read(window)
  expect(seen.edges).toEqual([1000, 3000, 5000])
  expect(seen.frames.count.map((f) => [f.from, f.to, f.state.lights])).toEqual([
    [1000, 3000, '00'],
    [3000, 9000, '10'],
  ])
  expect(seen.waves.map((w) => [w.net, w.changes.length, w.to])).toEqual([
    ['PB2', 3, 9000],
    ['PB10', 1, 9000],
  ]) // the supply is no news
  expect(sourceAt(seen, 2999)).toBeUndefined()
  expect(sourceAt(seen, 3000)).toBe('digits.h:45')
  expect(sourceAt(seen, 8000)).toBe('0x0040')
})

test('what did not fit is not drawn as if nothing happened', () => {
  const seen = read({ ...window, left: 12 })
  expect(seen.waves[0].to).toBe(5000)
  expect(seen.frames.count.at(-1)!.to).toBe(5000)
})

test('a wave: high above, low below, anything else between', () => {
  const wave = {
    net: 'PB0',
    to: 100,
    changes: [
      { at: 0, level: 'low' },
      { at: 20, level: 'high' },
      { at: 40, level: 'floating' },
      { at: 60, level: 'high and low' },
      { at: 80, level: 'pulled low' },
    ],
  }
  const heights = [...trace(wave, 0, 100).matchAll(/[ML]([\d.-]+) (\d+)/g)].map((m) => [Number(m[1]), Number(m[2])])
  expect(heights).toEqual([
    [0, 22],
    [200, 22],
    [200, 6],
    [400, 6],
    [400, 14],
    [600, 14],
    [600, 14],
    [800, 14],
    [800, 22],
    [1000, 22],
  ])
  expect(trace(wave, 45, 55)).toMatch(/^M-5\.0 14L1005\.0 14$/) // what is outside is cut
  expect(trace(wave, 200, 300)).toBe('')
})

const sheet = (...outcomes: [string, string][]): Sheet => ({
  exercise: 'x',
  title: 'X',
  firmware: 'x.elf',
  image: '',
  engine: '6',
  marks: 0,
  of: 1,
  findings: [],
  trials: [
    {
      name: 'one',
      length: 1,
      marks: 0,
      of: 1,
      verdicts: outcomes.map(([expectation, outcome]) => ({
        expectation,
        outcome: outcome as 'met',
        kind: 'reads',
        line: 1,
        marks: 0,
        of: 1,
      })),
    },
  ],
})

test('what changed from one attempt to the next', () => {
  const before = sheet(['a', 'met'], ['b', 'missed'], ['c', 'partly'])
  expect(differences(before, before)).toEqual([])
  expect(differences(before, sheet(['a', 'met'], ['b', 'met'], ['c', 'missed']))).toEqual([
    { what: 'one: b', was: 'missed', now: 'met' },
    { what: 'one: c', was: 'partly', now: 'missed' },
  ])
  // an exercise that was revised meanwhile: what has no counterpart is not compared
  expect(differences(before, sheet(['c', 'met'], ['new', 'met']))).toEqual([
    { what: 'one: c', was: 'partly', now: 'met' },
  ])
  expect(differences({ ...before, trials: [] }, before)).toEqual([])
})
