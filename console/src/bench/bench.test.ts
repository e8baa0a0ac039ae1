import { expect, test } from 'vitest'
import type { Reel, Track, Trial } from '../types'
import { frameAt } from './Display'
import { lanes, tell, telling } from './Lanes'
import { onTheWall } from './OnBench'

const s = 1e12

const frame = (from: number, to: number, text: string) => ({ from: from * s, to: to * s, text, state: {} })

const track: Track = {
  display: 'gauge',
  kind: 'seven-segment',
  geometry: { type: 'digits', width: 92, height: 120, shapes: [] },
  frames: [frame(0, 1, '-'), frame(1, 2, '2'), frame(2, 5, '4')],
}

test('the frame of a moment', () => {
  expect(frameAt(track, 0).text).toBe('-')
  expect(frameAt(track, 0.999 * s).text).toBe('-')
  expect(frameAt(track, 1 * s).text).toBe('2')
  expect(frameAt(track, 4.9 * s).text).toBe('4')
  expect(frameAt(track, 99 * s).text).toBe('4')
  expect(frameAt({ ...track, frames: [] }, 1)).toBeUndefined()
})

const trial: Trial = {
  name: 'x',
  length: 5 * s,
  marks: 1,
  of: 2,
  verdicts: [
    {
      expectation: 'gauge shows - 3 4',
      kind: 'shows',
      sequence: true,
      line: 1,
      marks: 1,
      of: 1,
      outcome: 'partly',
      display: 'gauge',
      first: { at: 1 * s, expected: '3', seen: '2' },
      alignment: [
        { operation: 'right', expected: { from: 0, to: 1 * s, text: '-' }, seen: { from: 0, to: 1 * s, text: '-' } },
        {
          operation: 'wrong',
          expected: { from: 1 * s, to: 2 * s, text: '3' },
          seen: { from: 1 * s, to: 2 * s, text: '2' },
        },
        { operation: 'missing', expected: { from: 2 * s, to: 3 * s, text: '5' } },
        { operation: 'extra', seen: { from: 2 * s, to: 5 * s, text: '4' } },
      ],
    },
    {
      expectation: 'gauge reads 4 at the end',
      kind: 'reads',
      line: 2,
      marks: 0,
      of: 1,
      outcome: 'missed',
      display: 'gauge',
      first: { at: 0.5 * s, expected: '4', seen: '-' },
      alignment: [{ operation: 'wrong', expected: { from: 0.5 * s, to: 0.7 * s, text: '4' } }],
    },
  ],
}

const counters = { cycles: 0, edges: 0, instructions: 0, resets: 0 }
const reel: Reel = {
  trial: 'x',
  seed: 1,
  counters,
  length: 5 * s,
  tracks: [track],
  cues: [{ verb: 'press', part: 'raise', text: 'press raise', start: 1 * s, end: 1.2 * s }],
}

test('expected lies above seen, cues below', () => {
  const all = lanes(trial, reel)
  expect(all.map((l) => l.label)).toEqual(['gauge, to read', 'gauge, expected', 'gauge, seen', 'cues'])
  expect(all[1].bars.map((b) => [b.text, b.operation])).toEqual([
    ['-', 'right'],
    ['3', 'wrong'],
    ['5', 'missing'],
  ])
  expect(all[2].bars.map((b) => [b.text, b.operation])).toEqual([
    ['-', 'right'],
    ['2', 'wrong'],
    ['4', 'extra'],
  ])
  expect(all[3].bars[0].text).toBe('press raise')
})

test('the first difference of all verdicts stands at the seen lane', () => {
  expect(lanes(trial, reel)[2].first).toBe(0.5 * s)
  expect(lanes({ ...trial, verdicts: [] }, reel)[0].first).toBeUndefined()
})

test('a display that nobody asked about is seen all the same', () => {
  expect(lanes({ ...trial, verdicts: [] }, { ...reel, cues: undefined }).map((l) => l.label)).toEqual(['gauge, seen'])
})

test('entries of a bus log', () => {
  expect(tell({ at: 0, part: 'board', what: 'clear display' })).toBe('clear display')
  expect(tell({ at: 0, part: 'USART0', what: 'sent', data: [0x4f, 0x6b, 10] })).toBe('sent 4F 6B 0A  Ok·')
  expect(tell({ at: 0, part: 'dial', what: 'register', data: [1, 2] })).toBe('register 01 02')
  const busy: Reel = {
    ...reel,
    length: s,
    tracks: [],
    cues: undefined,
    log: [{ at: 5, part: 'SPI', what: 'sent', data: [1] }],
  }
  expect(lanes({ ...trial, verdicts: [] }, busy).map((l) => l.label)).toEqual(['SPI, bus'])
})

test('of four rows those that change are shown', () => {
  const pick = telling(['"Lock" / "" / "closed" / "at lock 3"', '"Lock" / "" / "closed" / "side arm"', 'blank'])
  expect(pick('"Lock" / "" / "closed" / "side arm"')).toBe('"side arm"')
  expect(pick('blank')).toBe('blank')
  expect(telling(['"a" / "b"'])('"a" / "b"')).toBe('"a" / "b"')
})

test('a full bus log says where it ends', () => {
  const log = Array.from({ length: 1000 }, (_, i) => ({ at: i * 1e9, part: 'board', what: 'data' }))
  const of = (unlogged?: number) =>
    lanes(trial, { ...reel, log, unlogged })
      .find((l) => l.label === 'board, bus')!
      .bars.at(-1)!
  expect(of(7)).toMatchObject({ from: 999e9, to: reel.length, text: 'not logged' })
  expect(of(7).title).toContain('the log is full at 0.999')
  expect(of().text).toBe('')
})

test('displays that are read as one stand in the order in which they are read', () => {
  const named = (display: string, of?: string[]) => ({ ...track, display, of })
  const tracks = [named('lamp'), named('right'), named('bell'), named('left'), named('count', ['left', 'right'])]
  expect(onTheWall(tracks).map((t) => t.display)).toEqual(['lamp', 'left', 'bell', 'right'])
  expect(onTheWall([track])).toEqual([track])
})
