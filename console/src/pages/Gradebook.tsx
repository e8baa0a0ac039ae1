import { useQuery, useQueryClient } from '@tanstack/react-query'
import { type KeyboardEvent, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { address, get, part, put, send } from '../api'
import type { Columns, Filled, Gradebook as Book } from '../types'
import { Act } from '../ui/Act'
import { Ask } from '../ui/Dialog'
import { Choice, Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { OverrideAll } from '../ui/MarkMany'
import { answers, useClass } from '../data/class'

// The gradebook: arrow keys go from cell to cell, Enter opens the submission behind one.
export function Gradebook() {
  const here = useClass()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const at = `/classes/${part(here.name)}`
  const { data, error } = useQuery({ queryKey: ['gradebook', here.name], queryFn: () => get<Book>(`${at}/gradebook`) })
  const [search, setSearch] = useState('')
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const again = () => queries.invalidateQueries({ queryKey: ['gradebook', here.name] })
  const rows = data.rows.filter((r) => `${r.name} ${r.login} ${r.group}`.toLowerCase().includes(search.toLowerCase()))

  function move(e: KeyboardEvent<HTMLTableElement>) {
    const cell = (e.target as HTMLElement).closest('td')
    const row = cell?.parentElement as HTMLTableRowElement | null
    if (!cell || !row) return
    const steps: Record<string, [number, number]> = {
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
    }
    const step = steps[e.key]
    if (step) {
      const next = (row.parentElement as HTMLTableSectionElement).rows[row.sectionRowIndex + step[0]]?.cells[
        cell.cellIndex + step[1]
      ]
      if (next?.tabIndex >= 0) {
        next.focus()
        e.preventDefault()
      }
    }
    if (e.key === 'Enter' && cell.dataset.submission && e.target === cell)
      navigate(`/submissions/${cell.dataset.submission}`)
  }

  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-4 pt-6 pb-4">
        <h1 className="text-xl">Gradebook</h1>
        <span className="flex flex-wrap items-end gap-2">
          <input
            type="search"
            aria-label="find students"
            placeholder="name, login, group"
            className="field w-48"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          <a className="quiet no-underline" href={address(`${at}/gradebook.csv`)}>
            Export CSV
          </a>
          <Fill at={at} book={data} />
        </span>
      </div>
      {data.exercises.length === 0 && <Empty>Nothing is assigned to this class yet.</Empty>}
      <div className="max-h-[calc(100vh-220px)] min-h-64 overflow-auto" tabIndex={0} role="region" aria-label="marks">
        <table className="book grid-book" onKeyDown={move}>
          <thead className="sticky top-0 z-20 bg-paper">
            <tr>
              <th className="sticky left-0 z-10 bg-paper">Student</th>
              <th>Group</th>
              {data.exercises.map((x) => (
                <th key={x.exercise} className="number align-bottom">
                  <Link to={`/classes/${here.name}/assignments/${x.exercise}`}>{x.title}</Link>
                  <span className="block">of {+x.of}</span>
                  {answers(here) && (
                    <span className="block">
                      <Act
                        label={x.released ? `Hide the marks of ${x.title}` : `Release the marks of ${x.title}`}
                        act={() =>
                          put(`${at}/assignments/${part(x.exercise)}/release`, { released: !x.released }).then(again)
                        }
                      >
                        {x.released ? 'hide' : 'release'}
                      </Act>
                    </span>
                  )}
                </th>
              ))}
              <th className="number">Total</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.login}>
                <th scope="row" className="sticky left-0 bg-paper text-ink! whitespace-nowrap">
                  {r.name}
                </th>
                <td className="text-sm text-slate">{r.group}</td>
                {r.cells.map((c, i) => (
                  <td
                    key={i}
                    className="number"
                    tabIndex={0}
                    data-submission={c.submission}
                    title={
                      c.submission
                        ? `${c.attempts} attempts${c.percent! < 100 ? `; late, ${c.percent} % of the marks count` : ''}`
                        : undefined
                    }
                  >
                    {c.submission ? (
                      <Link
                        to={`/submissions/${c.submission}`}
                        tabIndex={-1}
                        className="text-ink no-underline hover:underline"
                      >
                        {c.marks}
                        {c.overridden ? ' *' : ''}
                        {c.percent! < 100 ? ' late' : ''}
                      </Link>
                    ) : (
                      <span className="text-slate">{c.waiting ? '…' : '–'}</span>
                    )}
                    {c.submission && (
                      <Enter
                        at={`${at}/assignments/${part(data.exercises[i].exercise)}`}
                        submission={c.submission}
                        of={+data.exercises[i].of}
                        name={here.name}
                        done={again}
                      />
                    )}
                  </td>
                ))}
                <td className="number">{r.total}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="pt-2 text-sm text-slate">
        – nothing submitted · … waiting to be marked · * changed by a person · late: a deduction applies. Arrow keys
        move between cells, Enter opens a submission, Tab reaches its “Change”.
      </p>
    </>
  )
}

// Enter changes the marks of a cell; it shows itself where the keyboard or the pointer is.
function Enter({
  at,
  submission,
  of,
  name,
  done,
}: {
  at: string
  submission: string
  of: number
  name: string
  done: () => void
}) {
  return (
    <span className="sr-only focus-within:not-sr-only">
      <OverrideAll at={at} className={name} submissions={[submission]} of={of} done={done} what="Total marks" />
    </span>
  )
}

// A school's own file is looked at first: which column is to be filled is chosen from its headings.
function Fill({ at, book }: { at: string; book: Book }) {
  const [file, setFile] = useState<File>()
  const [columns, setColumns] = useState<Columns>()
  const [problem, setProblem] = useState('')
  const [result, setResult] = useState<Filled>()
  async function choose(chosen?: File) {
    setFile(chosen)
    setColumns(undefined)
    setResult(undefined)
    setProblem('')
    if (!chosen) return
    try {
      setColumns(await send<Columns>('POST', `${at}/gradebook/columns`, 'text/csv', chosen))
    } catch (e) {
      setProblem((e as Error).message)
    }
  }
  return (
    <Ask
      trigger={
        <button type="button" className="quiet">
          Fill in school file…
        </button>
      }
      title="Fill in a column of your school’s file"
      help="All other bytes of the file stay as they are. Students are matched by login, number or name."
      action={result ? 'Close' : 'Fill in'}
      done={async (f) => {
        if (result) {
          await choose()
          return
        }
        if (!file || !columns) return false
        const q = new URLSearchParams({ column: String(f.get('column')), exercise: String(f.get('exercise')) })
        const filled = await send<Filled>('POST', `${at}/gradebook/fill?${q}`, 'text/csv', file)
        const link = document.createElement('a')
        link.href = URL.createObjectURL(
          new Blob([Uint8Array.from(atob(filled.data), (c) => c.charCodeAt(0))], { type: 'text/csv' }),
        )
        link.download = file.name
        link.click()
        setResult(filled)
        return false
      }}
    >
      <label>
        <span className="text-sm text-slate">File (CSV)</span>
        <input
          name="file"
          type="file"
          accept=".csv,.txt,text/csv"
          className="field"
          required
          onChange={(e) => choose(e.target.files?.[0])}
        />
      </label>
      {problem && <p className="text-brick">✗ {problem}</p>}
      {columns && (
        <>
          <p className="text-sm text-slate" role="status">
            Read as {columns.encoding}. Column “{columns.students}” identifies students: {columns.known} of{' '}
            {columns.rows} rows are in this class.
          </p>
          <Choice
            label="Column to fill"
            name="column"
            options={columns.columns.filter((h) => h && h !== columns.students).map((h): [string, string] => [h, h])}
          />
        </>
      )}
      <Choice
        label="Fill in with"
        name="exercise"
        options={[['', 'totals'], ...book.exercises.map((x): [string, string] => [x.exercise, x.title])]}
      />
      {result && (
        <p role="status" className="text-sm">
          <span className="text-moss">✓ {result.filled} marks filled in. The file is in your downloads.</span>
          {result.unknown.length > 0 && (
            <span className="block text-amber">≈ not in the class: {result.unknown.join(', ')}</span>
          )}
          {result.without.length > 0 && (
            <span className="block text-amber">≈ not in the file: {result.without.join(', ')}</span>
          )}
        </p>
      )}
    </Ask>
  )
}
