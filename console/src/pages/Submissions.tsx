import { useMutation } from '@tanstack/react-query'
import { useCallback, useDeferredValue, useEffect, useMemo, useState } from 'react'
import { createPortal } from 'react-dom'
import { Link, useLocation, useSearchParams } from 'react-router'
import { form, get, post } from '../api'
import { draftOf, dropDraft, keepDraft } from '../draft'
import { when } from '../time'
import type { Bulk, BulkFile, Member, Receipt, Submission } from '../types'
import { type Order, useSubmissions } from '../data/submissions'
import { Act } from '../ui/Act'
import { Ask, Dialog } from '../ui/Dialog'
import { Choice, Empty } from '../ui/fields'
import { Problem, Skip, Waiting } from '../ui/Frame'
import { type Column, Table } from '../ui/Table'
import { Tally, sign, states } from '../ui/marks'
import { useHere } from '../data/assignment'
import { useStudents } from '../data/members'

const filters: [string, (s: Submission) => boolean][] = [
  ['all', () => true],
  ['counting', (s) => !!s.counts],
  ['with faults', (s) => s.state === 'marked' && (s.partly > 0 || s.missed > 0 || !s.met)],
  ['waiting', (s) => s.state === 'queued' || s.state === 'running'],
  ['quarantined', (s) => s.state === 'failed'],
  ['late', (s) => !!s.late],
  ['marks changed', (s) => !!s.overridden],
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
            {open ? `${open} of ${list.data.length} to be marked` : `all ${list.data.length} marked`}
          </span>
          <Many />
          <Submit />
        </span>
      </div>
      {list.data.length === 0 ? (
        <Empty>
          Nothing has been submitted yet. Students submit on their page of this assignment. You can submit for one
          student, or for the whole class from a folder or a learning platform’s archive.
        </Empty>
      ) : (
        <List rows={shown} sort={params.get('sort') ?? ''} setSort={(sort) => set('sort', sort)} />
      )}
    </>
  )
}

// In order of how far a submission has come, and then of its marks.
const standing = (s: Submission) => (s.state === 'marked' ? Number(s.marks) / Math.max(1, Number(s.of)) : -1)

const columns = (order: Order): Column<Submission>[] => [
  {
    id: 'sign',
    head: <span className="sr-only">Sign</span>,
    cell: (s) => <span className={sign(s)[1]}>{sign(s)[0]}</span>,
    style: 'w-6',
  },
  {
    id: 'student',
    head: 'Student',
    by: (s) => s.student.toLowerCase(),
    style: 'whitespace-nowrap',
    cell: (s) => (
      <span>
        <Link to={`/submissions/${s.id}`} state={order}>
          {s.student}
        </Link>
        {s.counts && (
          <span className="pl-1 text-sm text-slate" title="this attempt counts">
            ●
          </span>
        )}
      </span>
    ),
  },
  {
    id: 'file',
    head: 'File',
    by: (s) => s.file,
    cell: (s) => s.file,
    title: (s) => s.file,
    style: 'max-w-[200px] truncate font-mono text-sm text-slate',
  },
  { id: 'attempt', head: 'Attempt', number: true, cell: (s) => s.attempt, by: (s) => s.attempt },
  {
    id: 'submitted',
    head: 'Submitted',
    by: (s) => s.submitted,
    style: 'text-sm whitespace-nowrap text-slate',
    cell: (s) => `${when(s.submitted)}${s.late ? `, late (${s.percent} %)` : ''}`,
  },
  {
    id: 'marks',
    head: 'Marks',
    number: true,
    by: standing,
    cell: (s) =>
      s.state === 'marked'
        ? `${s.marks} / ${s.of}${s.overridden ? ' *' : ''}`
        : `${states[s.state]}${s.progress?.of ? ` ${s.progress.done}/${s.progress.of}` : ''}`,
  },
  {
    id: 'verdicts',
    head: 'Verdicts',
    by: (s) => s.missed * 1000 + s.partly,
    cell: (s) => s.state === 'marked' && s.met + s.partly + s.missed > 0 && <Tally {...s} />,
  },
  {
    id: 'first',
    head: 'First difference',
    by: (s) => s.first || s.error || '',
    cell: (s) => s.first || s.error || '',
    title: (s) => s.first || s.error,
    style: 'max-w-[320px] truncate text-sm',
  },
]

// maxOrder bounds what goes into the browser's history.
const maxOrder = 2000

function List({ rows, sort, setSort }: { rows: Submission[]; sort: string; setSort: (sort: string) => void }) {
  const { pathname, search } = useLocation()
  const [ids, setIds] = useState<string[]>([])
  const order = useMemo<Order>(() => ({ ids, back: pathname + search }), [ids, pathname, search])
  const sorted = useCallback((now: string[]) => {
    const first = now.slice(0, maxOrder)
    setIds((was) => (was.length === first.length && was.every((id, i) => id === first[i]) ? was : first))
  }, [])
  const made = useMemo(() => columns(order), [order])
  return (
    <>
      {createPortal(<Skip to="list">Skip to submissions</Skip>, document.getElementById('skips')!)}
      <Table
        label="submissions"
        tall
        body="list"
        rows={rows}
        id={(s) => s.id}
        columns={made}
        sort={sort}
        setSort={setSort}
        data={(s) => ({ state: s.state })}
        sorted={sorted}
      />
    </>
  )
}

function Submit() {
  const { at } = useHere()
  const students = useStudents()
  return (
    <Ask
      trigger={
        <button type="button" className="plate">
          Submit
        </button>
      }
      title="Submit for a student"
      help="Intel HEX, ELF, UF2 or a plain copy of flash, source (one file, or a zip archive of several), or a capture. With source or an ELF with debug information, results name source lines."
      action="Submit"
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
        <span className="text-sm text-slate">Wiring file, if the exercise allows it</span>
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
  const upload = useMutation({
    mutationFn: (files: File[]) =>
      form<Bulk>(
        `${at}/bulk`,
        {},
        files.map((f) => ['file', f]),
      ),
    onSuccess: setBulk,
  })
  async function goOn() {
    const b = await get<Bulk>(`${at}/bulk/${left!.id}`).catch((e: Error) => {
      forgetLeft()
      throw e
    })
    if (!b.done) return setBulk(b)
    forgetLeft()
    throw new Error('these files were submitted already')
  }
  function forgetLeft() {
    dropDraft(`bulk ${at}`)
    setLeft(undefined)
  }
  return (
    <>
      {bulk && (
        <Review
          bulk={bulk}
          chosen={left?.id === bulk.id ? left.logins : undefined}
          close={(done) => {
            if (done) dropDraft(`bulk ${at}`)
            setLeft(draftOf<Reviewed>(`bulk ${at}`)?.value)
            setBulk(undefined)
          }}
        />
      )}
      {left && <Act act={goOn}>Continue with {left.files} files</Act>}
      <label
        className="quiet cursor-pointer focus-within:outline-2 focus-within:outline-bottle"
        aria-busy={upload.isPending}
      >
        {upload.isPending ? 'Uploading…' : 'Submit many…'}
        <input
          type="file"
          multiple
          className="sr-only"
          disabled={upload.isPending}
          onChange={(e) => {
            const files = [...(e.target.files ?? [])]
            e.target.value = ''
            if (files.length) upload.mutate(files)
          }}
        />
      </label>
      {upload.error && (
        <span role="alert" className="text-brick">
          ✗ {upload.error.message}
        </span>
      )}
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
  useEffect(
    () => keepDraft<Reviewed>(`bulk ${at}`, { id: bulk.id, files: bulk.files.length, logins }),
    [at, bulk, logins],
  )
  const chosen = Object.values(logins).filter(Boolean).length
  return (
    <Dialog
      size="page"
      open
      onOpenChange={() => close(false)}
      title={`Submit ${bulk.files.length} files`}
      help="Files of a wrong kind come first, then doubtful matches, then the rest. A file without a student is skipped."
    >
      <Table
        label="files"
        rows={bulk.files}
        id={(f) => String(f.number)}
        columns={[
          {
            id: 'sign',
            head: <span className="sr-only">Sign</span>,
            style: 'w-6',
            cell: (f) => (
              <span className={f.problem ? 'text-brick' : f.sure ? 'text-moss' : 'text-amber'}>
                {f.problem ? '✗' : f.sure ? '✓' : '≈'}
              </span>
            ),
          },
          {
            id: 'file',
            head: 'File',
            style: 'max-w-[320px] truncate font-mono text-sm',
            title: (f) => f.name,
            cell: (f) => f.name,
          },
          {
            id: 'student',
            head: 'Student',
            cell: (f) =>
              f.problem ? (
                <span className="text-sm text-brick">{f.problem}</span>
              ) : (
                <select
                  className="field"
                  aria-label={`student of ${f.name}`}
                  value={logins[f.number] ?? ''}
                  onChange={(e) => setLogins({ ...logins, [f.number]: e.target.value })}
                >
                  <option value="">none: skip this file</option>
                  {f.candidates?.length ? (
                    <optgroup label="likely">
                      {f.candidates.map((login) => students.filter((m) => m.login === login).map(option))}
                    </optgroup>
                  ) : null}
                  <optgroup label={f.candidates?.length ? 'others' : 'students'}>
                    {students.filter((m) => !f.candidates?.includes(m.login)).map(option)}
                  </optgroup>
                </select>
              ),
          },
          {
            id: 'how',
            head: 'Matched by',
            style: 'text-sm text-slate',
            cell: (f) => (f.problem ? '' : how(f, students)),
          },
        ]}
      />
      <div className="flex flex-wrap justify-end gap-2 pt-4">
        <button type="button" className="quiet" onClick={() => close(true)}>
          Discard
        </button>
        <button type="button" className="quiet" onClick={() => close(false)}>
          Later
        </button>
        <Act
          plate
          why={chosen ? '' : 'no file has a student yet'}
          act={() => post(`${at}/bulk/${bulk.id}`, { logins }).then(() => close(true))}
        >
          Submit {chosen}
        </Act>
      </div>
    </Dialog>
  )
}
