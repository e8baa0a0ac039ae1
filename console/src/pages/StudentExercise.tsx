import { useQueries, useQuery, useQueryClient } from '@tanstack/react-query'
import { type DragEvent, type FormEvent, useRef, useState } from 'react'
import { Link } from 'react-router'
import { form, get, part } from '../api'
import { local, when } from '../time'
import { useDraft } from '../draft'
import { Schematic, Wires } from '../bench/Schematic'
import type { Brief, Receipt, Result, Submission } from '../types'
import { Empty } from '../ui/fields'
import { Problem } from '../ui/Frame'
import { Tally, differences, outcomeColour, outcomeMark, sign, states } from '../ui/marks'
import type { Here } from './ExerciseFrame'
import { useSubmissions } from './Submissions'
import { works } from '../ui/Terms'
import { Wide } from '../ui/Wide'

const anyOf = new Intl.ListFormat('en-GB', { type: 'disjunction' })

// A student's page of an exercise: what is to be built, with their own values; a place to drop a file; what came of it.
export default function StudentExercise(here: Here) {
  const { assignment, at } = here
  const brief = useQuery({ queryKey: ['brief', at], queryFn: () => get<Brief>(`${at}/brief`) })
  const list = useSubmissions(here.class.name, assignment.exercise, at)
  return (
    <>
      <h1 className="pt-6 pb-2 text-xl">{assignment.title}</h1>
      <p className="pb-4 text-slate">
        {assignment.standing?.due ? `due ${when(assignment.standing.due)}` : 'no due time'}
        {assignment.standing?.closes ? `, closes ${when(assignment.standing.closes)}` : ''}
        {assignment.late === 'per-day' && assignment.due
          ? `, ${assignment.per_day} % less for each day begun after it`
          : ''}{' '}
        · {+assignment.marks} marks
      </p>
      {list.error ? <Problem error={list.error} /> : <Attempts list={list.data} />}
      <Drop {...here} />
      {brief.error && <Problem error={brief.error} />}
      {brief.data && <Task brief={brief.data} />}
    </>
  )
}

function Drop({ assignment, at, class: here }: Here) {
  const queries = useQueryClient()
  const [file, setFile] = useState<File>()
  const [over, setOver] = useState(false)
  const [told, setTold] = useState<[boolean, string]>([true, ''])
  const [busy, setBusy] = useState(false)
  const [round, setRound] = useState(0) // a new field for each file: the same one may be chosen again
  const open = assignment.standing?.open
  const { form: kept, drop } = useDraft(`hand in ${at}`)
  const status = useRef<HTMLParagraphElement>(null)

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const fields = new FormData(event.currentTarget)
    const wiring = fields.get('wiring') as File
    if (!file) return
    setBusy(true)
    try {
      const r = await form<Receipt>(`${at}/submissions`, { comment: String(fields.get('comment') ?? '') }, [
        ['file', file],
        ...(wiring?.size ? ([['wiring', wiring]] as [string, File][]) : []),
      ])
      setTold([
        true,
        r.same
          ? `The same file is there already, as attempt ${r.attempt}.`
          : `✓ Received as attempt ${r.attempt}. It cannot be lost any more.`,
      ])
      drop()
      setFile(undefined)
      setRound(round + 1)
      queries.invalidateQueries({ queryKey: ['assignment', here.name] })
    } catch (e) {
      setTold([false, `✗ ${(e as Error).message}`])
    } finally {
      setBusy(false)
      status.current?.focus() // the button that was pressed is closed now
    }
  }

  const taken = works.filter(([kind]) => assignment.takes?.includes(kind))
  const dropped = (e: DragEvent) => {
    e.preventDefault()
    setOver(false)
    setFile(e.dataTransfer.files[0])
  }
  return (
    <section aria-labelledby="hand-in" className="py-6">
      <h2 id="hand-in" className="pb-2 text-lg">
        Hand in
      </h2>
      {!open && <p className="pb-2 text-amber">≈ Nothing is taken now: {local(assignment.standing?.why ?? '')}.</p>}
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
            <span className="text-slate">{`Drop ${anyOf.format(taken.map((w) => (w[0] === 'capture' ? 'a capture' : w[0])))} here, or choose a file: ${taken.map((w) => w[2]).join(', ')}`}</span>
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
          <summary className="text-bottle">a comment, or a wiring file</summary>
          <label className="block pt-2">
            <span className="text-sm text-slate">Comment for who marks it</span>
            <textarea name="comment" rows={2} maxLength={4000} className="field" />
          </label>
          <label className="block pt-2">
            <span className="text-sm text-slate">Your own wiring, where the exercise allows it</span>
            <input name="wiring" type="file" accept=".yaml,.yml" className="field" />
          </label>
        </details>
        <p
          ref={status}
          tabIndex={-1}
          role="status"
          className={told[0] ? 'text-moss' : 'whitespace-pre-line text-brick'}
        >
          {told[1]}
        </p>
        <button type="submit" className="plate self-start" disabled={!file || busy || !open}>
          Hand in
        </button>
      </form>
    </section>
  )
}

function Attempts({ list }: { list?: Submission[] }) {
  if (!list?.length)
    return (
      list && (
        <Empty>
          You have not handed in yet. In about a minute after you do, you see here what the displays showed, where it
          first differs from what was wanted, and why.
        </Empty>
      )
    )
  return (
    <section aria-labelledby="attempts">
      <h2 id="attempts" className="pb-2 text-lg">
        Your attempts
      </h2>
      <Wide>
        <table className="book">
          <thead>
            <tr>
              <th className="w-6">
                <span className="sr-only">Sign</span>
              </th>
              <th>Attempt</th>
              <th>File</th>
              <th>Handed in</th>
              <th className="number">Marks</th>
              <th>Verdicts</th>
              <th>What changed</th>
            </tr>
          </thead>
          <tbody aria-live="polite">
            {list.map((s, i) => {
              const [mark, colour] = sign(s)
              return (
                <tr key={s.id} data-state={s.state}>
                  <td className={colour}>{mark}</td>
                  <td className="whitespace-nowrap">
                    <Link to={`/submissions/${s.id}`}>attempt {s.attempt}</Link>{' '}
                    {s.counts && <span className="text-sm text-slate">counts</span>}
                  </td>
                  <td className="max-w-[200px] truncate font-mono text-sm text-slate">{s.file}</td>
                  <td className="text-sm whitespace-nowrap text-slate">
                    {when(s.submitted)}
                    {s.late ? `, late (${s.percent} %)` : ''}
                  </td>
                  <td className="number">
                    {s.state === 'marked'
                      ? s.marks !== undefined
                        ? `${s.marks} / ${s.of}`
                        : 'later'
                      : `${states[s.state]}${s.progress?.ahead ? `, ${s.progress.ahead} before it` : ''}`}
                  </td>
                  <td>{s.met + s.partly + s.missed > 0 && <Tally {...s} />}</td>
                  <td className="max-w-[420px] py-1 text-sm">
                    <Changed before={list[i - 1]} now={s} />
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </Wide>
    </section>
  )
}

// Changed tells what an attempt changed against the one before it: in a few words, and opened, expectation by expectation.
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
      <p className="text-slate">There is no sheet to be seen of one of them yet.</p>
    ) : (
      <p className="text-slate">Fetching…</p>
    )
  const list = differences(a.data.sheet, b.data.sheet)
  if (!list.length) return <p className="text-slate">Every expectation came out as before.</p>
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
        The task
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
    </section>
  )
}
