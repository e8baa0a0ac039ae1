import { useQuery, useQueryClient } from '@tanstack/react-query'
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
import { type ReactNode, createContext, use, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import { createPortal } from 'react-dom'
import { Link, useLocation, useSearchParams } from 'react-router'
import { form, get, post } from '../api'
import { useChanges } from '../changes'
import { draftOf, dropDraft, keepDraft } from '../draft'
import { when } from '../time'
import type { Bulk, BulkFile, Member, Page, Receipt, Submission } from '../types'
import { Ask } from '../ui/Dialog'
import { Choice, Empty } from '../ui/fields'
import { Problem, Skip, Waiting } from '../ui/Frame'
import { Tally, sign, states } from '../ui/marks'
import { useHere } from './ExerciseFrame'
import { useStudents } from './Members'

// everything reads all pages of a list.
export async function everything(at: string): Promise<Submission[]> {
  const all: Submission[] = []
  for (let after = ''; ;) {
    const page = await get<Page<Submission>>(`${at}/submissions?limit=1000${after && `&after=${after}`}`)
    all.push(...page.items)
    if (!page.next) return all
    after = page.next
  }
}

// useSubmissions gives the submissions of an exercise, as they are now.
export function useSubmissions(className: string, exercise: string, at: string) {
  const queries = useQueryClient()
  const key = ['submissions', className, exercise]
  const list = useQuery({ queryKey: key, queryFn: () => everything(at) })
  useChanges(className, (changed) => {
    if (changed && changed.exercise !== exercise) return
    const known = queries.getQueryData<Submission[]>(key)
    if (changed && known?.some((s) => s.id === changed.id)) {
      queries.setQueryData(
        key,
        known.map((s) => (s.id === changed.id ? { ...changed, counts: s.counts } : s)),
      )
    } else {
      list.refetch()
    }
  })
  return list
}

const filters: [string, (s: Submission) => boolean][] = [
  ['all', () => true],
  ['that count', (s) => !!s.counts],
  ['with a fault', (s) => s.state === 'marked' && (s.partly > 0 || s.missed > 0 || !s.met)],
  ['waiting', (s) => s.state === 'queued' || s.state === 'running'],
  ['set aside', (s) => s.state === 'failed'],
  ['late', (s) => !!s.late],
  ['changed by hand', (s) => !!s.overridden],
]

export function Submissions() {
  const here = useHere()
  const list = useSubmissions(here.class.name, here.assignment.exercise, here.at)
  // What is shown, and in which order, is in the address: Back, a reload and a copied link keep it.
  const [params, setParams] = useSearchParams()
  const search = params.get('q') ?? ''
  const filter = Math.max(
    0,
    filters.findIndex(([name]) => name === params.get('show')),
  )
  const set = (name: string, value: string) =>
    setParams(
      (was) => {
        const now = new URLSearchParams(was)
        if (value) now.set(name, value)
        else now.delete(name)
        return now
      },
      { replace: true },
    )
  const wanted = useDeferredValue(search.trim().toLowerCase())
  const shown = useMemo(
    () =>
      (list.data ?? []).filter(
        (s) =>
          filters[filter][1](s) &&
          (!wanted || `${s.student} ${s.login} ${s.file} ${s.first ?? ''}`.toLowerCase().includes(wanted)),
      ),
    [list.data, filter, wanted],
  )
  if (list.error) return <Problem error={list.error} />
  if (!list.data) return <Waiting />
  const open = list.data.filter((s) => s.state === 'queued' || s.state === 'running').length
  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-4 py-4">
        <span className="flex flex-wrap items-end gap-4">
          <label>
            <span className="sr-only">Search</span>
            <input
              type="search"
              className="field w-56"
              placeholder="name, file, difference"
              value={search}
              onChange={(e) => set('q', e.target.value)}
            />
          </label>
          <label>
            <span className="sr-only">Which submissions</span>
            <select
              className="field"
              value={filter}
              onChange={(e) => set('show', Number(e.target.value) ? filters[Number(e.target.value)][0] : '')}
            >
              {filters.map(([name], i) => (
                <option key={name} value={i}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </span>
        <span className="flex flex-wrap items-center gap-4 text-slate">
          <span aria-live="polite">
            {open ? `${open} of ${list.data.length} still to mark` : `all ${list.data.length} marked`}
          </span>
          <Many />
          <HandIn />
        </span>
      </div>
      {list.data.length === 0 ? (
        <Empty>
          Nobody has handed in yet. Students do it on their own page of this exercise; you can hand in for one of them,
          or for sixty at once from a folder or a learning platform’s archive.
        </Empty>
      ) : (
        <Table rows={shown} sort={params.get('sort') ?? ''} setSort={(sort) => set('sort', sort)} />
      )}
    </>
  )
}

const rowHeight = 37

const column = createColumnHelper<Submission>()

// In order of how far a submission has come, and then of its marks.
const standing = (s: Submission) => (s.state === 'marked' ? Number(s.marks) / Math.max(1, Number(s.of)) : -1)

const columns = [
  column.display({
    id: 'sign',
    header: () => <span className="sr-only">Sign</span>,
    cell: ({ row: { original: s } }) => <span className={sign(s)[1]}>{sign(s)[0]}</span>,
    meta: 'w-6',
  }),
  column.accessor('student', {
    header: 'Student',
    cell: ({ row: { original: s } }) => (
      <>
        <Opened id={s.id}>{s.student}</Opened>
        {s.counts && (
          <span className="pl-1 text-sm text-slate" title="this attempt counts">
            ●
          </span>
        )}
      </>
    ),
    meta: 'whitespace-nowrap',
  }),
  column.accessor('file', { header: 'File', meta: 'max-w-[200px] truncate font-mono text-sm text-slate' }),
  column.accessor('attempt', { header: 'Attempt', meta: 'number' }),
  column.accessor('submitted', {
    header: 'Handed in',
    cell: ({ row: { original: s } }) => `${when(s.submitted)}${s.late ? `, late (${s.percent} %)` : ''}`,
    meta: 'text-sm whitespace-nowrap text-slate',
  }),
  column.accessor(standing, {
    id: 'marks',
    header: 'Marks',
    cell: ({ row: { original: s } }) =>
      s.state === 'marked'
        ? `${s.marks} / ${s.of}${s.overridden ? ' *' : ''}`
        : `${states[s.state]}${s.progress?.of ? ` ${s.progress.done}/${s.progress.of}` : ''}`,
    meta: 'number',
  }),
  column.accessor((s) => s.missed * 1000 + s.partly, {
    id: 'verdicts',
    header: 'Verdicts',
    cell: ({ row: { original: s } }) => s.state === 'marked' && s.met + s.partly + s.missed > 0 && <Tally {...s} />,
  }),
  column.accessor((s) => s.first || s.error || '', {
    id: 'first',
    header: 'First difference',
    meta: 'max-w-[320px] truncate text-sm',
  }),
]

// Table draws the rows that can be seen, however many there are. A click on a heading sorts by it.
function Table({ rows, sort, setSort }: { rows: Submission[]; sort: string; setSort: (sort: string) => void }) {
  const box = useRef<HTMLDivElement>(null)
  const sorting = useMemo<SortingState>(
    () => (sort ? [{ id: sort.replace(/^-/, ''), desc: sort.startsWith('-') }] : []),
    [sort],
  )
  const setSorting = (change: Updater<SortingState>) => {
    const [now] = typeof change === 'function' ? change(sorting) : change
    setSort(now ? `${now.desc ? '-' : ''}${now.id}` : '')
  }
  const table = useReactTable({
    data: rows,
    columns,
    state: { sorting },
    onSortingChange: setSorting,
    getRowId: (s) => s.id,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  })
  const sorted = table.getRowModel().rows
  const virtual = useVirtualizer({
    count: sorted.length,
    getScrollElement: () => box.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  })
  const items = virtual.getVirtualItems()
  const [before, after] = items.length ? [items[0].start, virtual.getTotalSize() - items[items.length - 1].end] : [0, 0]
  const style = (meta: unknown) => (meta as string | undefined) ?? ''
  const { pathname, search } = useLocation()
  const order = useMemo<Order>(
    () => ({ ids: sorted.slice(0, maxOrder).map((r) => r.id), back: pathname + search }),
    [sorted, pathname, search],
  )
  return (
    <InOrder value={order}>
      {createPortal(<Skip to="list">to the submissions</Skip>, document.getElementById('skips')!)}
      <div
        ref={box}
        className="max-h-[calc(100vh-220px)] min-h-64 overflow-auto"
        tabIndex={0}
        role="region"
        aria-label="submissions"
      >
        <table className="book" aria-rowcount={sorted.length + 1}>
          <thead className="sticky top-0 bg-paper">
            <tr>
              {table.getFlatHeaders().map((h) => {
                const way = h.column.getIsSorted()
                return (
                  <th
                    key={h.id}
                    className={/number|w-6/.exec(style(h.column.columnDef.meta))?.[0]}
                    aria-sort={way ? (way === 'asc' ? 'ascending' : 'descending') : undefined}
                  >
                    {h.column.getCanSort() ? (
                      <button type="button" onClick={h.column.getToggleSortingHandler()} title="sort by this">
                        {flexRender(h.column.columnDef.header, h.getContext())}
                        <span aria-hidden>{way === 'asc' ? ' ↑' : way === 'desc' ? ' ↓' : ''}</span>
                      </button>
                    ) : (
                      flexRender(h.column.columnDef.header, h.getContext())
                    )}
                  </th>
                )
              })}
            </tr>
          </thead>
          <tbody id="list" tabIndex={-1} className="outline-none">
            {before > 0 && <tr style={{ height: before }} aria-hidden />}
            {items.map((v) => {
              const row = sorted[v.index]
              return (
                <tr key={row.id} data-state={row.original.state} aria-rowindex={v.index + 2}>
                  {row.getVisibleCells().map((c) => {
                    const told = style(c.column.columnDef.meta).includes('truncate') ? String(c.getValue()) : undefined
                    return (
                      <td key={c.id} className={style(c.column.columnDef.meta)} title={told}>
                        {flexRender(c.column.columnDef.cell, c.getContext())}
                      </td>
                    )
                  })}
                </tr>
              )
            })}
            {after > 0 && <tr style={{ height: after }} aria-hidden />}
          </tbody>
        </table>
      </div>
    </InOrder>
  )
}

// Order is what a list showed when one of its submissions was opened: next and previous keep to it, and the way back leads there.
export interface Order {
  ids: string[]
  back: string
}

// maxOrder bounds what goes into the browser's history.
const maxOrder = 2000

const InOrder = createContext<Order | undefined>(undefined)

function Opened({ id, children }: { id: string; children: ReactNode }) {
  return (
    <Link to={`/submissions/${id}`} state={use(InOrder)}>
      {children}
    </Link>
  )
}

function HandIn() {
  const { at } = useHere()
  const students = useStudents()
  return (
    <Ask
      trigger={
        <button type="button" className="plate">
          Hand in
        </button>
      }
      title="Hand in for a student"
      help="Intel HEX or ELF, source (one file, or a zip archive of several), or a capture. An ELF with debug information, and source, let the result name source lines."
      action="Hand in"
      done={(f) =>
        form<Receipt>(
          `${at}/submissions`,
          { student: String(f.get('student')), comment: String(f.get('comment') ?? '') },
          [
            ['file', f.get('file') as File],
            ...((f.get('wiring') as File)?.size ? ([['wiring', f.get('wiring') as File]] as [string, File][]) : []),
          ],
        )
      }
    >
      <Choice label="Student" name="student" options={students.map((m) => [m.login, `${m.name} (${m.login})`])} />
      <label>
        <span className="text-sm text-slate">File</span>
        <input name="file" type="file" className="field" required />
      </label>
      <label>
        <span className="text-sm text-slate">Wiring file, where the exercise lets students wire</span>
        <input name="wiring" type="file" accept=".yaml,.yml" className="field" />
      </label>
    </Ask>
  )
}

// Many files at once: they are matched to the roster, and what is doubtful is looked at first.
function Many() {
  const { at } = useHere()
  const [bulk, setBulk] = useState<Bulk>()
  const [left, setLeft] = useState(draftOf<Reviewed>(`bulk ${at}`)?.value)
  return bulk ? (
    <Review
      bulk={bulk}
      chosen={left?.id === bulk.id ? left.logins : undefined}
      close={(done) => {
        if (done) dropDraft(`bulk ${at}`)
        setLeft(draftOf<Reviewed>(`bulk ${at}`)?.value)
        setBulk(undefined)
      }}
    />
  ) : (
    <>
      {left && (
        <button
          type="button"
          className="quiet text-amber"
          onClick={() =>
            get<Bulk>(`${at}/bulk/${left.id}`)
              .then((b) => (b.done ? Promise.reject(new Error('done')) : setBulk(b)))
              .catch(() => (dropDraft(`bulk ${at}`), setLeft(undefined)))
          }
        >
          {left.files} files wait for you to go on…
        </button>
      )}
      <label className="quiet cursor-pointer focus-within:outline-2 focus-within:outline-bottle">
        Many files…
        <input
          type="file"
          multiple
          className="sr-only"
          onChange={async (e) => {
            const files = [...(e.target.files ?? [])]
            e.target.value = ''
            if (!files.length) return
            try {
              setBulk(
                await form<Bulk>(
                  `${at}/bulk`,
                  {},
                  files.map((f) => ['file', f]),
                ),
              )
            } catch (problem) {
              alert((problem as Error).message)
            }
          }}
        />
      </label>
    </>
  )
}

// Reviewed is how far the review of a bulk has come: whose which file is.
interface Reviewed {
  id: string
  files: number
  logins: Record<number, string>
}

const option = (m: Member) => (
  <option key={m.login} value={m.login}>
    {m.name} ({m.login})
  </option>
)

// how tells by what a file is a student's, or whose it may be.
function how(f: BulkFile, students: Member[]) {
  if (f.sure || !f.candidates?.length) return f.how
  const names = f.candidates.slice(0, 3).map((login) => students.find((m) => m.login === login)?.name ?? login)
  return `${f.how}: ${names.join(' or ')}${f.candidates.length > 3 ? ' …' : ''}`
}

function Review({
  bulk,
  chosen: before,
  close,
}: {
  bulk: Bulk
  chosen?: Record<number, string>
  close: (done: boolean) => void
}) {
  const { at } = useHere()
  const students = useStudents()
  const [logins, setLogins] = useState<Record<number, string>>(
    () =>
      before ??
      Object.fromEntries(bulk.files.filter((f) => !f.problem).map((f) => [f.number, f.sure ? (f.login ?? '') : ''])),
  )
  const [problem, setProblem] = useState('')
  useEffect(
    () => keepDraft<Reviewed>(`bulk ${at}`, { id: bulk.id, files: bulk.files.length, logins }),
    [at, bulk, logins],
  )
  const chosen = Object.values(logins).filter(Boolean).length
  return (
    <section
      aria-label="files to hand in"
      className="fixed inset-x-4 top-[6vh] z-30 mx-auto max-h-[88vh] max-w-[900px] overflow-auto border-2 border-ink bg-paper p-6 text-ink"
    >
      <h2 className="text-lg">{bulk.files.length} files</h2>
      <p className="pb-4 text-sm text-slate">
        Files of a wrong kind first, then those that nobody can be sure of, then the rest. A file without a student is
        left out.
      </p>
      <table className="book">
        <thead>
          <tr>
            <th className="w-6" />
            <th>File</th>
            <th>Whose</th>
            <th>By</th>
          </tr>
        </thead>
        <tbody>
          {bulk.files.map((f) => (
            <tr key={f.number}>
              <td className={f.problem ? 'text-brick' : f.sure ? 'text-moss' : 'text-amber'}>
                {f.problem ? '✗' : f.sure ? '✓' : '≈'}
              </td>
              <td className="max-w-[320px] truncate font-mono text-sm" title={f.name}>
                {f.name}
              </td>
              {f.problem ? (
                <td colSpan={2} className="text-sm text-brick">
                  {f.problem}
                </td>
              ) : (
                <>
                  <td>
                    <select
                      className="field"
                      aria-label={`whose is ${f.name}`}
                      value={logins[f.number] ?? ''}
                      onChange={(e) => setLogins({ ...logins, [f.number]: e.target.value })}
                    >
                      <option value="">nobody: leave it out</option>
                      {f.candidates?.length ? (
                        <optgroup label="perhaps">
                          {f.candidates.map((login) => students.filter((m) => m.login === login).map(option))}
                        </optgroup>
                      ) : null}
                      <optgroup label={f.candidates?.length ? 'or' : 'students'}>
                        {students.filter((m) => !f.candidates?.includes(m.login)).map(option)}
                      </optgroup>
                    </select>
                  </td>
                  <td className="text-sm text-slate">{how(f, students)}</td>
                </>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <p role="alert" className="min-h-6 text-brick">
        {problem && `✗ ${problem}`}
      </p>
      <div className="flex justify-end gap-2">
        <button type="button" className="quiet" onClick={() => close(true)}>
          Drop them
        </button>
        <button type="button" className="quiet" onClick={() => close(false)}>
          Later
        </button>
        <button
          type="button"
          className="plate"
          disabled={!chosen}
          onClick={() =>
            post(`${at}/bulk/${bulk.id}`, { logins })
              .then(() => close(true))
              .catch((e: Error) => setProblem(e.message))
          }
        >
          Hand in {chosen}
        </button>
      </div>
    </section>
  )
}
