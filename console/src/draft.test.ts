import { afterEach, expect, test, vi } from 'vitest'

const store = new Map<string, string>()
vi.stubGlobal('localStorage', {
  getItem: (k: string) => store.get(k) ?? null,
  setItem: (k: string, v: string) => store.set(k, v),
  removeItem: (k: string) => store.delete(k),
})
const { draftOf, dropDraft, keepDraft } = await import('./draft')
const { begin } = await import('./session')

afterEach(() => store.clear())

test('a draft is kept until it is dropped', () => {
  expect(draftOf('x')).toBeUndefined()
  keepDraft('x', { text: 'hello' })
  expect(draftOf<{ text: string }>('x')?.value.text).toBe('hello')
  expect(draftOf('x')!.at).toBeLessThanOrEqual(Date.now())
  dropDraft('x')
  expect(draftOf('x')).toBeUndefined()
})

test('a draft is its writer’s alone', () => {
  begin('oke')
  keepDraft('x', 'mine')
  begin('haq')
  expect(draftOf('x')).toBeUndefined()
  begin('oke')
  expect(draftOf('x')?.value).toBe('mine')
})

test('a damaged or forbidden store is none', () => {
  store.set('hemble-draft:oke:x', '{')
  expect(draftOf('x')).toBeUndefined()
  vi.stubGlobal('localStorage', {
    setItem: () => {
      throw new Error('full')
    },
  })
  expect(() => keepDraft('x', 1)).not.toThrow()
  expect(() => dropDraft('x')).not.toThrow()
})
