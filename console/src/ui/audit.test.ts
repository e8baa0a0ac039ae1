import { expect, test } from 'vitest'
import type { AuditEntry } from '../types'
import { sentence } from './audit'

const entry = (action: string, subject: string, detail = ''): AuditEntry => ({
  id: 1,
  at: '2026-11-27T18:00:00Z',
  by: 'keeper',
  class: 'lock-house',
  action,
  subject,
  detail,
})

test('an entry is a sentence', () => {
  expect(sentence(entry('roster imported', '60 students'))).toBe('keeper imported a roster: 60 students.')
  expect(sentence(entry('join code removed', ''))).toBe('keeper removed the join code.')
  expect(sentence(entry('proposed marks applied', 'abc', '{"student":"oke","was":"7","is":"8.5","proposal":1}'))).toBe(
    'keeper applied the proposed marks of submission abc: oke 7 → 8.5.',
  )
  expect(sentence(entry('exercise assigned', 'gate-clock', '{"attempts":3,"late":"full"}'))).toBe(
    'keeper assigned gate-clock: 3 attempts.',
  )
})

test('what is not known is told as it stands', () => {
  expect(sentence(entry('something new', 'x', 'y'))).toBe('keeper something new, x, y.')
  expect(sentence(entry('exercise assigned', 'x', 'no JSON'))).toBe('keeper assigned x.')
})
