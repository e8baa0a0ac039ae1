import { expect, test } from 'vitest'
import { inserted } from './insert'

const put = (text: string, piece: string, under: 'bench' | 'expect') => {
  const { at, text: lines } = inserted(text, piece, under)
  return text.slice(0, at) + lines + text.slice(at)
}

const text = `bench:
  lamp: {part: lamp}

trials:
  - name: x
    expect:
      - {reads: lamp, text: on, at: end}
  - name: y
    expect:
      - shows: lamp
        frames: [on, off]
    length: 4s
by-hand: []
`

test('a part goes to the end of the bench', () => {
  expect(put(text, 'red: {part: lamp}', 'bench')).toBe(
    text.replace('lamp: {part: lamp}\n', 'lamp: {part: lamp}\n  red: {part: lamp}\n'),
  )
})

test('an expectation goes to the end of the last trial', () => {
  expect(put(text, '{steady: lamp}', 'expect')).toBe(
    text.replace('frames: [on, off]\n', 'frames: [on, off]\n      - {steady: lamp}\n'),
  )
  expect(put(text, 'any-of:\n  - {steady: lamp}\nmarks: 2', 'expect')).toContain(
    '      - any-of:\n          - {steady: lamp}\n        marks: 2\n    length',
  )
})

test('a text without the place gets one', () => {
  expect(put('hemble: 1', 'red: {part: lamp}', 'bench')).toBe('hemble: 1\nbench:\n  red: {part: lamp}\n')
  expect(put('', '{steady: lamp}', 'expect')).toBe('expect:\n  - {steady: lamp}\n')
  expect(put('bench:\n', 'red: {part: lamp}', 'bench')).toBe('bench:\n  red: {part: lamp}\n')
})
