import {
  type SortingState,
  type Updater,
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getSortedRowModel,
  useReactTable,
} from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { type KeyboardEvent, type ReactNode, useEffect, useMemo, useRef, useState } from 'react'

// Column is a column of a table of T.
export interface Column<T> {
  id: string
  head: ReactNode // what stands above it; a text also is beside it where the table is a list
  cell: (row: T) => ReactNode
  by?: (row: T) => string | number | boolean | undefined // what it is sorted by; it cannot be sorted without
  number?: boolean
  style?: string
  title?: (row: T) => string | undefined // all of what may be cut off
}

interface Props<T> {
  label: string
  columns: Column<T>[]
  rows: T[]
  id: (row: T) => string
  sort?: string // the column that it is sorted by, with - before it from the largest on
  setSort?: (sort: string) => void
  data?: (row: T) => Record<string, string | undefined> // further attributes of its row
  tall?: boolean // it scrolls by itself, its head stays
  body?: string // the id of its body, for a link that leads there
  sorted?: (ids: string[]) => void // told the order in which they stand
}

const rowHeight = 37
const few = 100 // that many rows are drawn without looking which of them can be seen

// Table shows rows under heads that stay while it scrolls. A click on a head sorts by it; arrow keys go from cell to cell. On
// a narrow screen each row is a list of its cells.
export function Table<T>(props: Props<T>) {
  const { label, columns, rows, id, data, tall, body } = props
  const [own, setOwn] = useState('')
  const sort = props.sort ?? own
  const setSort = props.setSort ?? setOwn
  const box = useRef<HTMLDivElement>(null)
  const made = useMemo(() => {
    const column = createColumnHelper<T>()
    return columns.map((c) =>
      column.accessor((row: T) => c.by?.(row), {
        id: c.id,
        header: () => c.head,
        enableSorting: !!c.by,
        sortUndefined: 'last',
      }),
    )
  }, [columns])
  const sorting = useMemo<SortingState>(
    () => (sort ? [{ id: sort.replace(/^-/, ''), desc: sort.startsWith('-') }] : []),
    [sort],
  )
  const table = useReactTable({
    data: rows,
    columns: made,
    state: { sorting },
    onSortingChange: (change: Updater<SortingState>) => {
      const [now] = typeof change === 'function' ? change(sorting) : change
      setSort(now ? `${now.desc ? '-' : ''}${now.id}` : '')
    },
    getRowId: id,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  })
  const sorted = table.getRowModel().rows
  const told = props.sorted
  useEffect(() => told?.(sorted.map((r) => r.id)), [told, sorted])
  const virtual = useVirtualizer({
    count: sorted.length,
    getScrollElement: () => box.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    enabled: !!tall && sorted.length > few,
  })
  const seen = virtual.options.enabled
    ? virtual.getVirtualItems()
    : sorted.map((_, index) => ({ index, start: 0, end: 0 }))
  const before = seen.length ? seen[0].start : 0
  const after = virtual.options.enabled && seen.length ? virtual.getTotalSize() - seen[seen.length - 1].end : 0
  return (
    <div
      ref={box}
      className={tall ? 'max-h-[calc(100vh-220px)] min-h-64 overflow-auto' : 'overflow-x-auto'}
      tabIndex={0}
      role="region"
      aria-label={label}
    >
      <table className="book" aria-rowcount={sorted.length + 1} onKeyDown={move}>
        <thead className="sticky top-0 z-10 bg-paper">
          <tr>
            {table.getFlatHeaders().map((h, i) => {
              const way = h.column.getIsSorted()
              const text = flexRender(h.column.columnDef.header, h.getContext())
              return (
                <th
                  key={h.id}
                  scope="col"
                  className={`${columns[i].number ? 'number' : ''} ${/\bw-\d+/.exec(columns[i].style ?? '')?.[0] ?? ''}`}
                  aria-sort={way ? (way === 'asc' ? 'ascending' : 'descending') : undefined}
                >
                  {h.column.getCanSort() ? (
                    <button type="button" onClick={h.column.getToggleSortingHandler()} title="sort by this column">
                      {text}
                      <span aria-hidden>{way === 'asc' ? ' ↑' : way === 'desc' ? ' ↓' : ''}</span>
                    </button>
                  ) : (
                    text
                  )}
                </th>
              )
            })}
          </tr>
        </thead>
        <tbody id={body} tabIndex={body ? -1 : undefined} className="outline-none">
          {before > 0 && <tr style={{ height: before }} aria-hidden />}
          {seen.map(({ index }) => {
            const row = sorted[index]
            return (
              <tr
                key={row.id}
                ref={virtual.options.enabled ? virtual.measureElement : undefined}
                data-index={index}
                aria-rowindex={index + 2}
                {...Object.fromEntries(Object.entries(data?.(row.original) ?? {}).map(([k, v]) => [`data-${k}`, v]))}
              >
                {columns.map((c) => (
                  <td
                    key={c.id}
                    className={`${c.number ? 'number' : ''} ${c.style ?? ''}`}
                    title={c.title?.(row.original)}
                    data-label={typeof c.head === 'string' ? c.head : undefined}
                  >
                    {c.cell(row.original)}
                  </td>
                ))}
              </tr>
            )
          })}
          {after > 0 && <tr style={{ height: after }} aria-hidden />}
        </tbody>
      </table>
    </div>
  )
}

// move takes the arrow keys from row to row: to what can be done in the same column of the next one.
function move(e: KeyboardEvent<HTMLTableElement>) {
  const step = { ArrowUp: -1, ArrowDown: 1 }[e.key]
  const cell = (e.target as HTMLElement).closest('td')
  const row = cell?.parentElement as HTMLTableRowElement | undefined
  if (!step || !cell || !row || /^(INPUT|SELECT|TEXTAREA)$/.test((e.target as HTMLElement).tagName)) return
  const next = (row.parentElement as HTMLTableSectionElement).rows[row.sectionRowIndex + step]?.cells[cell.cellIndex]
  const target = next?.querySelector<HTMLElement>('a, button, input, select')
  if (!target) return
  target.focus()
  e.preventDefault()
}
