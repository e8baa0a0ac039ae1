import { expect, test } from 'vitest'
import { brief, local, ruler, second, seconds } from './time'

test('times read as the terminal writes them', () => {
  expect(seconds(4.215 * second)).toBe('4.215 s')
  expect(brief(0.7 * second)).toBe('700 ms')
  expect(brief(3.333e9)).toBe('3.33 ms')
  expect(brief(12 * second)).toBe('12 s')
  expect(brief(100e6)).toBe('100 µs')
})

test('a ruler has about ten steps at round numbers', () => {
  expect(ruler(6 * second)).toEqual([0, 1, 2, 3, 4, 5, 6].map((s) => s * second))
  expect(ruler(16 * second)[1]).toBe(2 * second)
})

test('times within a text are those of the reader', () => {
  const write = (t?: Date | number) => new Date(t!).toISOString()
  expect(local('it closed at 27 November 2026 23:30:05 UTC, at last', write)).toBe('it closed at 2026-11-27T23:30:05.000Z, at last')
  expect(local('it closed at 99 Nowhere 2026 23:30:05 UTC', write)).toBe('it closed at 99 Nowhere 2026 23:30:05 UTC')
  expect(local('nothing of the kind')).toBe('nothing of the kind')
})
