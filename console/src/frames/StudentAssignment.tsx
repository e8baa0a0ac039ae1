import { useMutation, useQueries, useQuery, useQueryClient } from '@tanstack/react-query'
import { type DragEvent, type FormEvent, Fragment, type ReactNode, useRef, useState } from 'react'
import { Link } from 'react-router'
import { form, get, part } from '../api'
import { local, when } from '../time'
import { useDraft } from '../draft'
import { Schematic, Wires } from '../bench/Schematic'
import type { Brief, Receipt, Result, Submission } from '../types'
import { Empty } from '../ui/fields'
import { Problem } from '../ui/Frame'
import { Tally, differences, outcomeColour, outcomeMark, sign, states } from '../ui/marks'
import type { Here } from '../data/assignment'
import { useSubmissions } from '../data/submissions'
import { endings } from '../data/works'
import { Table } from '../ui/Table'

const anyOf = new Intl.ListFormat('en-GB', { type: 'disjunction' })

// A student's page of an exercise: what is to be built, with their own values; a place to drop a file; what came of it.
export default function StudentAssignment(here: Here) {
  const { assignment, at } = here
  const brief = useQuery({ queryKey: ['brief', at], queryFn: () => get<Brief>(`${at}/brief`) })
  const list = useSubmissions(here.class.name, assignment.exercise, at)
  return (
    <>
      <h1 className="pt-6 pb-2 text-xl">{assignment.title}</h1>
      <AtAGlance here={here} brief={brief.data} last={list.data?.at(-1)} />
      {list.error ? <Problem error={list.error} /> : <Attempts list={list.data} />}
      <Drop {...here} />
      {brief.error && <Problem error={brief.error} />}
      {brief.data && <Task brief={brief.data} />}
    </>
  )
}

// short is the beginning of a text, up to the end of a sentence where there is one in time.
function short(text: string) {
  const line = text.replace(/\s+/g, ' ').trim()
  if (line.length <= 220) return line
  const end = line.lastIndexOf('. ', 220)
  return end > 60 ? line.slice(0, end + 1) : `${line.slice(0, line.lastIndexOf(' ', 220))} …`
}

// AtAGlance says what is asked, by when, how many attempts are left, what is accepted, and what came of the last one.
function AtAGlance({ here: { assignment, class: of }, brief, last }: { here: Here; brief?: Brief; last?: Submission }) {
  const s = assignment.standing
  const accepted = assignment.works ?? []
  const rows: [string, ReactNode][] = [
    ['Task', brief ? short(brief.brief) : '…'],
    [
      'Due',
      <>
        {s?.due ? when(s.due) : 'no due time'}
        {s?.closes ? `, closes ${when(s.closes)}` : ''}
        {assignment.late === 'per-day' && assignment.due ? `; late work loses ${assignment.per_day} % per day` : ''}
      </>,
    ],
    [
      'Attempts',
      `${s?.attempts ?? 0} made, ${s?.left === undefined ? 'no limit' : `${s.left} left`}${s?.next_from && new Date(s.next_from) > new Date() ? `, next from ${when(s.next_from)}` : ''}`,
    ],
    ['Accepted files', endings(accepted) || '–'],
    [
      'Last attempt',
      last ? (
        <>
          <span className={sign(last)[1]}>{sign(last)[0]}</span>{' '}
          <Link to={`/submissions/${last.id}`}>
            {last.state === 'marked'
              ? last.marks !== undefined
                ? `${last.marks} of ${last.of} marks`
                : 'marked'
              : states[last.state]}
          </Link>
          {last.first && <span className="text-slate">: {last.first}</span>}
        </>
      ) : (
        'none yet'
      ),
    ],
    ...(accepted.some((w) => w.kind !== 'capture')
      ? ([
          [
            'Practice',
            <>
              <Link to={`/classes/${of.name}/assignments/${assignment.exercise}/bench`}>Try it on the live bench</Link>
              <span className="text-slate">: no attempt is used</span>
            </>,
          ],
        ] as [string, ReactNode][])
      : []),
    ['Marks', `${s?.marks ? `${+s.marks} of ` : ''}${+(s?.of || assignment.marks)}`],
  ]
  return (
    <dl className="mb-4 grid gap-x-6 border-y border-line py-3 sm:grid-cols-[120px_1fr]">
      {rows.map(([name, what]) => (
        <Fragment key={name}>
          <dt className="text-sm text-slate">{name}</dt>
          <dd className="max-w-[80ch] pb-1 wrap-anywhere">{what}</dd>
        </Fragment>
      ))}
    </dl>
  )
}

function Drop({ assignment, at, class: here }: Here) {
  const queries = useQueryClient()
  const [file, setFile] = useState<File>()
  const [over, setOver] = useState(false)
  const [round, setRound] = useState(0) // a new field for each file: the same one may be chosen again
  const open = assignment.standing?.open
  const { form: kept, drop } = useDraft(`submit ${at}`)
  const status = useRef<HTMLParagraphElement>(null)
  const sending = useMutation({
    mutationFn: (fields: FormData) => {
      const wiring = fields.get('wiring') as File
      return form<Receipt>(`${at}/submissions`, { comment: String(fields.get('comment') ?? '') }, [
        ['file', file!],
        ...(wiring?.size ? ([['wiring', wiring]] as [string, File][]) : []),
      ])
    },
    onSuccess: () => {
      drop()
      setFile(undefined)
      setRound(round + 1)
      queries.invalidateQueries({ queryKey: ['assignment', here.name] })
    },
    onSettled: () => status.current?.focus(), // the button that was pressed cannot be pressed now
  })
  const why = !open ? local(assignment.standing?.why ?? 'the assignment is closed') : !file ? 'choose a file first' : ''
  function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    if (!why && !sending.isPending) sending.mutate(new FormData(event.currentTarget))
  }

  const taken = assignment.works ?? []
  const dropped = (e: DragEvent) => {
    e.preventDefault()
    setOver(false)
    setFile(e.dataTransfer.files[0])
  }
  return (
    <section aria-labelledby="submit" className="py-6">
      <h2 id="submit" className="pb-2 text-lg">
        Submit
      </h2>
      {!open && <p className="pb-2 text-amber">≈ Submissions are closed: {local(assignment.standing?.why ?? '')}.</p>}
      <form ref={kept} onSubmit={submit} className="flex max-w-[640px] flex-col gap-4">
        <label
          onDragOver={(e) => (e.preventDefault(), setOver(true))}
          onDragLeave={() => setOver(false)}
          onDrop={dropped}
          className={`block cursor-pointer border-2 border-dashed p-6 text-center focus-within:outline-2 focus-within:outline-bottle ${over ? 'border-bottle' : 'border-line'}`}
        >
          {file ? (
            <span className="font-mono">{file.name}</span>
          ) : (
            <span className="text-slate">{`Drop ${anyOf.format(taken.map((w) => (w.kind === 'capture' ? 'a capture' : w.kind)))} here, or choose a file: ${endings(taken)}`}</span>
          )}
          <input
            key={round}
            name="file"
            type="file"
            className="sr-only"
            onChange={(e) => setFile(e.target.files?.[0])}
          />
        </label>
        <details>
          <summary className="text-bottle">Add a comment or a wiring file</summary>
          <label className="block pt-2">
            <span className="text-sm text-slate">Comment for the instructor</span>
            <textarea name="comment" rows={2} maxLength={4000} className="field" />
          </label>
          <label className="block pt-2">
            <span className="text-sm text-slate">Your own wiring, if the exercise allows it</span>
            <input name="wiring" type="file" accept=".yaml,.yml" className="field" />
          </label>
        </details>
        <p ref={status} tabIndex={-1} role="status" className="text-moss">
          {sending.data &&
            (sending.data.same
              ? `✓ This file was submitted before, as attempt ${sending.data.attempt}.`
              : `✓ Received as attempt ${sending.data.attempt}. It is safely stored.`)}
        </p>
        <p role="alert" className="whitespace-pre-line text-brick">
          {sending.error && `✗ ${sending.error.message}`}
        </p>
        <span className="flex items-center gap-4">
          <button type="submit" className="plate" aria-disabled={!!why || sending.isPending} title={why || undefined}>
            Submit{sending.isPending && '…'}
          </button>
          {why && <span className="text-sm text-slate">{why}</span>}
        </span>
      </form>
    </section>
  )
}

function Attempts({ list }: { list?: Submission[] }) {
  if (!list?.length)
    return (
      list && (
        <Empty>
          You have not submitted yet. About a minute after you do, you will see here what the displays showed, where it
          first differs from what was expected, and why.
        </Empty>
      )
    )
  return (
    <section aria-labelledby="attempts">
      <h2 id="attempts" className="pb-2 text-lg">
        Your attempts
      </h2>
      <div aria-live="polite">
        <Table
          label="your attempts"
          rows={list}
          id={(s) => s.id}
          data={(s) => ({ state: s.state })}
          columns={[
            {
              id: 'sign',
              head: <span className="sr-only">Sign</span>,
              style: 'w-6',
              cell: (s) => <span className={sign(s)[1]}>{sign(s)[0]}</span>,
            },
            {
              id: 'attempt',
              head: 'Attempt',
              by: (s) => s.attempt,
              style: 'whitespace-nowrap',
              cell: (s) => (
                <span>
                  <Link to={`/submissions/${s.id}`}>attempt {s.attempt}</Link>{' '}
                  {s.counts && <span className="text-sm text-slate">counts</span>}
                </span>
              ),
            },
            {
              id: 'file',
              head: 'File',
              cell: (s) => s.file,
              title: (s) => s.file,
              style: 'max-w-[200px] truncate font-mono text-sm text-slate',
            },
            {
              id: 'submitted',
              head: 'Submitted',
              style: 'text-sm whitespace-nowrap text-slate',
              cell: (s) => `${when(s.submitted)}${s.late ? `, late (${s.percent} %)` : ''}`,
            },
            {
              id: 'marks',
              head: 'Marks',
              number: true,
              cell: (s) =>
                s.state === 'marked'
                  ? s.marks !== undefined
                    ? `${s.marks} / ${s.of}`
                    : 'shown later'
                  : `${states[s.state]}${s.progress?.ahead ? `, ${s.progress.ahead} ahead` : ''}`,
            },
            {
              id: 'verdicts',
              head: 'Verdicts',
              cell: (s) => s.met + s.partly + s.missed > 0 && <Tally {...s} />,
            },
            {
              id: 'changed',
              head: 'What changed',
              style: 'max-w-[420px] py-1 text-sm',
              cell: (s) => <Changed before={list[list.indexOf(s) - 1]} now={s} />,
            },
          ]}
        />
      </div>
    </section>
  )
}

// Changed returns what an attempt changed against the one before it: in a few words, and opened, expectation by expectation.
function Changed({ before, now }: { before?: Submission; now: Submission }) {
  const [open, setOpen] = useState(false)
  if (now.state !== 'marked') return now.error
  if (!before || before.state !== 'marked') return now.first
  const more = now.met - before.met
  const text =
    more > 0
      ? `${more} more met`
      : more < 0
        ? `${-more} fewer met`
        : before.first === now.first
          ? 'the same difference'
          : 'as many met, another difference'
  return (
    <details onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>
        {text}
        {now.first && <span className="text-slate">: {now.first}</span>}
      </summary>
      {open && <Differences before={before.id} now={now.id} />}
    </details>
  )
}

function Differences(ids: { before: string; now: string }) {
  const [a, b] = useQueries({
    queries: [ids.before, ids.now].map((id) => ({
      queryKey: ['result', id],
      queryFn: () => get<Result>(`/submissions/${part(id)}`),
    })),
  })
  if (a.error || b.error) return <Problem error={(a.error ?? b.error)!} />
  if (!a.data?.sheet || !b.data?.sheet)
    return a.data && b.data ? (
      <p className="text-slate">One of the mark sheets cannot be seen yet.</p>
    ) : (
      <p className="text-slate">Loading…</p>
    )
  const list = differences(a.data.sheet, b.data.sheet)
  if (!list.length) return <p className="text-slate">No verdict changed.</p>
  return (
    <ul>
      {list.map((d, i) => (
        <li key={i} className="border-t border-line py-1">
          {d.what}: <span className={outcomeColour[d.was]}>{`${outcomeMark[d.was]} ${d.was}`}</span> →{' '}
          <span className={outcomeColour[d.now]}>{`${outcomeMark[d.now]} ${d.now}`}</span>
        </li>
      ))}
    </ul>
  )
}

function Task({ brief }: { brief: Brief }) {
  return (
    <section aria-labelledby="task" className="pb-8">
      <h2 id="task" className="pb-2 text-lg">
        Task
      </h2>
      <p className="max-w-[72ch] pb-4 whitespace-pre-line">{brief.brief}</p>
      {!!brief.values?.length && (
        <p className="pb-4">
          Your own values:{' '}
          {brief.values.map((v) => (
            <span key={v.name} className="mr-4 font-mono text-sm">
              {v.name} = {v.value}
            </span>
          ))}
        </p>
      )}
      <h3 className="pt-2 pb-3 text-slate">Wiring{brief.chip ? ` of the ${brief.chip}, ${brief.clock}` : ''}</h3>
      {brief.schematic && <Schematic drawing={brief.schematic} label="circuit diagram of the bench" />}
      <Wires wires={brief.wires} />
      {brief.others?.map((other) => (
        <section key={other.chip}>
          <h3 className="pt-6 pb-3 text-slate">
            Or with the {other.chip}, {other.clock}
          </h3>
          <Schematic drawing={other.schematic} label={`circuit diagram of the bench with the ${other.chip}`} />
          <Wires wires={other.wires} />
        </section>
      ))}
    </section>
  )
}
