// @vitest-environment jsdom
import { cleanup, render, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, test, vi } from 'vitest'
import { type Column, Table } from './Table'

afterEach(cleanup)

interface Row {
  name: string
  marks?: number
}
const rows: Row[] = [{ name: 'Oke', marks: 7 }, { name: 'Ames', marks: 10 }, { name: 'Wren' }]
const columns: Column<Row>[] = [
  { id: 'name', head: 'Name', by: (r) => r.name, cell: (r) => <a href={`#${r.name}`}>{r.name}</a> },
  { id: 'marks', head: 'Marks', number: true, by: (r) => r.marks, cell: (r) => r.marks ?? '–' },
  { id: 'note', head: 'Note', cell: () => '' },
]
const names = () => screen.getAllByRole('link').map((l) => l.textContent)

test('a click on a head sorts, a second one the other way, and what has no value stands last', async () => {
  const sorted = vi.fn()
  render(<Table label="people" rows={rows} columns={columns} id={(r) => r.name} sorted={sorted} />)
  expect(names()).toEqual(['Oke', 'Ames', 'Wren'])
  await userEvent.click(screen.getByRole('button', { name: 'Name' }))
  expect(names()).toEqual(['Ames', 'Oke', 'Wren'])
  expect(sorted).toHaveBeenLastCalledWith(['Ames', 'Oke', 'Wren'])
  await userEvent.click(screen.getByRole('button', { name: 'Marks' }))
  const first = names()
  await userEvent.click(screen.getByRole('button', { name: /Marks/ }))
  expect([first, names()].sort()).toEqual(
    [
      ['Ames', 'Oke', 'Wren'],
      ['Oke', 'Ames', 'Wren'],
    ].sort(),
  )
  expect(screen.getByRole('columnheader', { name: /Marks/ }).getAttribute('aria-sort')).toMatch(/ending$/)
  expect(within(screen.getByRole('columnheader', { name: 'Note' })).queryByRole('button')).toBeNull()
})

test('arrow keys go from row to row in a column', async () => {
  render(<Table label="people" rows={rows} columns={columns} id={(r) => r.name} />)
  screen.getByRole('link', { name: 'Oke' }).focus()
  await userEvent.keyboard('{ArrowDown}')
  expect(document.activeElement?.textContent).toBe('Ames')
  await userEvent.keyboard('{ArrowUp}{ArrowUp}')
  expect(document.activeElement?.textContent).toBe('Oke')
})

test('each cell says under which head it stands, for a list on a phone', () => {
  render(<Table label="people" rows={rows} columns={columns} id={(r) => r.name} />)
  expect(screen.getByText('7').closest('td')?.dataset.label).toBe('Marks')
})
