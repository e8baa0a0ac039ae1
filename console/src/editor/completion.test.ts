import { expect, test } from 'vitest'
import file from '../../../docs/exercise.schema.json'
import { type Schema, parts, place, words } from './completion'

const text = `hemble: 1
name: x
chip: {is: atmega328p, clock: 16MHz}
bench:
  gauge: {part: seven-segment, common: anode, pins: {a: PC0, common: VCC}}
  raise:
    part: button
    pins: {1: PD7, 2: GND}
trials:
  - name: one
    length: 9s
    cues:
      - {at: 1s, press: raise, for: 100ms}
    expect:
      - {shows: gauge, frames: [2, 4], each: 1s}
      - reads: gauge
        text: 2
        at: end
`

const at = (before: string, more = '') => {
  const i = text.indexOf(before)
  expect(i).toBeGreaterThanOrEqual(0)
  const pos = i + before.length
  return [text.slice(0, pos) + more + (more && '\n') + text.slice(pos), pos + more.length] as const
}

test('where a place is', () => {
  const cases: [string, string, string[], string | undefined, string[]][] = [
    ['name: ', '', [], 'name', []],
    ['chip: {is: ', '', ['chip'], 'is', []],
    ['chip: {is: atmega328p, ', '', ['chip'], undefined, ['is']],
    ['common: anode, ', '', ['bench', 'gauge'], undefined, ['part', 'common']],
    ['pins: {a: ', '', ['bench', 'gauge', 'pins'], 'a', []],
    ['    part: button\n', '    bou', ['bench', 'raise'], undefined, ['part', 'pins']],
    ['    part: ', '', ['bench', 'raise'], 'part', []],
    ['- {at: 1s, ', '', ['trials', '[]', 'cues', '[]'], undefined, ['at']],
    ['press: ', '', ['trials', '[]', 'cues', '[]'], 'press', []],
    ['frames: [2, ', '', ['trials', '[]', 'expect', '[]', 'frames', '[]'], '', []],
    ['- reads: ', '', ['trials', '[]', 'expect', '[]'], 'reads', []],
    ['        text: 2\n', '        wit', ['trials', '[]', 'expect', '[]'], undefined, ['reads', 'text']],
    ['    length: 9s\n', '    see', ['trials', '[]'], undefined, ['name', 'length']],
    ['length: ', '', ['trials', '[]'], 'length', ['name']],
  ]
  for (const [before, more, path, key, pairs] of cases) {
    const p = place(...at(before, more))
    expect([before, p.path, p.key]).toEqual([before, path, key])
    for (const k of pairs) expect([before, ...p.pairs.keys()]).toContain(k)
  }
})

test('the parts of the bench', () => expect(parts(text)).toEqual(['gauge', 'raise']))

test('what can be written there, by the schema of the service', () => {
  const schema = file as unknown as Schema
  const labels = (before: string, more = '') =>
    words(schema, place(...at(before, more)), parts(text), ['PB0', 'PB1']).map((w) => w.label)
  expect(labels('chip: {is: ')).toContain('atmega328p')
  expect(labels('chip: {is: atmega328p, ')).toEqual(['board', 'clock-pin', 'or', 'supply'])
  expect(labels('common: anode, ')).toContain('colour')
  expect(labels('common: anode, ')).not.toContain('bounce')
  expect(labels('    part: button\n', '    ')).toContain('bounce')
  expect(labels('    part: ')).toContain('seven-segment')
  expect(labels('pins: {a: ')).toContain('PB1')
  expect(labels('press: ')).toContain('raise')
  expect(labels('- {at: 1s, ')).toContain('hold')
  expect(labels('- {at: 1s, ')).not.toContain('press') // it is there already
  expect(labels('- {shows: gauge, ')).toContain('tolerance')
  expect(labels('- {shows: gauge, ')).not.toContain('period')
  expect(labels('- {shows: ')).toContain('gauge')
  expect(labels('        text: 2\n', '        ')).toContain('within')
  expect(labels('    length: 9s\n', '    ')).toContain('hidden')
})
