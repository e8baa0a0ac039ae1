// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import type { ReactNode } from 'react'
import { afterEach, expect, test, vi } from 'vitest'
import { Act } from './Act'

afterEach(cleanup)

const show = (what: ReactNode) => render(<QueryClientProvider client={new QueryClient()}>{what}</QueryClientProvider>)

test('an action says that it is under way, and that it is done', async () => {
  let end = () => {}
  const act = vi.fn(() => new Promise<void>((done) => (end = done)))
  show(
    <Act act={act} done="released">
      Release
    </Act>,
  )
  const button = screen.getByRole('button')
  await userEvent.click(button)
  expect(button.getAttribute('aria-busy')).toBe('true')
  await userEvent.click(button)
  expect(act).toHaveBeenCalledTimes(1)
  end()
  expect((await screen.findByRole('status')).textContent).toBe('✓ released')
  expect(button.getAttribute('aria-busy')).toBe('false')
})

test('a refused action gives the reason, and can be tried again', async () => {
  const act = vi.fn().mockRejectedValueOnce(new Error('the class is archived')).mockResolvedValue(undefined)
  show(<Act act={act}>Release</Act>)
  await userEvent.click(screen.getByRole('button'))
  expect((await screen.findByRole('alert')).textContent).toBe('✗ the class is archived')
  await userEvent.click(screen.getByRole('button'))
  expect(screen.queryByRole('alert')).toBeNull()
})

test('a button that cannot act says why, and does nothing', async () => {
  const act = vi.fn()
  show(
    <Act act={act} why="nothing has been submitted yet">
      Release
    </Act>,
  )
  expect(screen.getByRole('button').title).toBe('nothing has been submitted yet')
  await userEvent.click(screen.getByRole('button'))
  expect(act).not.toHaveBeenCalled()
  expect(screen.getByRole('status').textContent).toContain('nothing has been submitted yet')
})
