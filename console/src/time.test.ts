import times from '../../core/clock/testdata/times.json'
import { expect, test } from 'vitest'
import { brief, local, ruler, second, seconds } from './time'

// The table that the service's own times are held against, too.
test.each(times)('$ps ps is $brief', ({ ps, seconds: long, brief: short }) => {
  expect(seconds(ps)).toBe(long)
  expect(brief(ps)).toBe(short)
})

test('a ruler has about ten steps at round numbers', () => {
  expect(ruler(6 * second)).toEqual([0, 1, 2, 3, 4, 5, 6].map((s) => s * second))
  expect(ruler(16 * second)[1]).toBe(2 * second)
})

test('times within a text are those of the reader', () => {
  const write = (t?: Date | number) => new Date(t!).toISOString()
  expect(local('it closed at 27 November 2026 23:30:05 UTC, at last', write)).toBe(
    'it closed at 2026-11-27T23:30:05.000Z, at last',
  )
  expect(local('it closed at 99 Nowhere 2026 23:30:05 UTC', write)).toBe('it closed at 99 Nowhere 2026 23:30:05 UTC')
  expect(local('nothing of the kind')).toBe('nothing of the kind')
})
