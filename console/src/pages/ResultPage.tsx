import * as Tabs from '@radix-ui/react-tabs'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { Link, useLocation, useNavigate, useParams, useSearchParams } from 'react-router'
import { address, get, part, remove } from '../api'
import { useChanges } from '../changes'
import { ByHand } from '../result/ByHand'
import { Causes } from '../result/Causes'
import { Messages } from '../result/Messages'
import { Said } from '../result/Said'
import { WithSource } from '../result/SourceText'
import { TrialView } from '../result/TrialView'
import type { About } from '../result/about'
import type { Result } from '../types'
import { Problem, Waiting, useSession } from '../ui/Frame'
import { Act } from '../ui/Act'
import { Tally } from '../ui/marks'
import type { Order } from '../data/submissions'

export function ResultPage() {
  const { id = '' } = useParams()
  const navigate = useNavigate()
  const { data, error, refetch } = useQuery({
    queryKey: ['result', id],
    queryFn: () => get<Result>(`/submissions/${part(id)}`),
  })
  const session = useSession()
  const order = useLocation().state as Order | null
  const place = order?.ids.indexOf(id) ?? -1
  const [previous, next] =
    order && place >= 0 ? [order.ids[place - 1], order.ids[place + 1]] : [data?.previous, data?.next]
  useChanges(data?.class, (s) => {
    if (!s || s.id === id) refetch()
  })
  useEffect(() => {
    // n and p go to the next and the previous one, where nothing is being written
    const key = (e: KeyboardEvent) => {
      const to = e.key === 'n' ? next : e.key === 'p' ? previous : undefined
      const writing = (e.target as HTMLElement).closest(
        'input, textarea, select, [role=dialog], [contenteditable=true]',
      )
      if (to && !writing && !e.ctrlKey && !e.metaKey && !e.altKey) navigate(`/submissions/${to}`, { state: order })
    }
    addEventListener('keydown', key)
    return () => removeEventListener('keydown', key)
  }, [next, previous, navigate, order])
  const title = useRef<HTMLHeadingElement>(null)
  const shown = data?.id
  useEffect(() => title.current?.focus(), [shown]) // whoever comes by the keyboard continues from here
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const mine = session.data?.classes?.find((c) => c.name === data.class)
  const staff = session.data?.role === 'admin' || (!!mine && mine.role !== 'student')
  const answers = session.data?.role === 'admin' || mine?.role === 'instructor'
  const about: About = { result: data, staff, answers, again: () => void refetch() }
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-8 pt-6 pb-2">
        <h1 ref={title} tabIndex={-1} className="text-xl outline-none">
          <Link to={order?.back ?? `/classes/${data.class}/assignments/${data.exercise}`} className="text-ink">
            {data.title}
          </Link>
          <span className="text-base text-slate">
            {' '}
            · attempt {data.attempt} · {data.student} ·{' '}
            <a className="font-mono text-sm" href={address(`/submissions/${part(id)}/file`)}>
              {data.file}
            </a>
          </span>
        </h1>
        <span className="flex flex-wrap items-baseline gap-x-6">
          {data.marks !== undefined && (
            <span className="text-xl">
              {data.marks} / {data.of}
              {data.overridden && <span title="changed by hand"> *</span>}
              {data.sheet?.exact !== undefined && !data.sheet.unmarked && (
                <span className="pl-2 text-sm text-slate">rounded from {data.sheet.exact}</span>
              )}
            </span>
          )}
          {data.met + data.partly + data.missed > 0 && <Tally {...data} />}
          <span className="flex gap-4 text-sm">
            <Neighbour id={previous} order={order} label="‹ previous" />
            <Neighbour id={next} order={order} label="next ›" />
            {place >= 0 && (
              <span className="text-slate">
                {place + 1} of {order!.ids.length}
              </span>
            )}
          </span>
        </span>
      </div>
      <p className="flex flex-wrap gap-x-6 pb-4 text-sm text-slate">
        {data.counts && <span>● this attempt counts</span>}
        {!!data.late && <span>late: {data.percent} % of the marks count</span>}
        {data.comment && <span>“{data.comment}”</span>}
        {data.hidden && <span>{data.hidden}</span>}
        {data.sheet && <a href={address(`/submissions/${part(id)}/sheet.html`)}>as a page</a>}
      </p>
      <Body key={id} {...about} />
      {(staff || !!data.comments?.length) && <Said {...about} />}
    </>
  )
}

function Neighbour({ id, order, label }: { id?: string; order: Order | null; label: string }) {
  return id ? (
    <Link to={`/submissions/${id}`} state={order}>
      {label}
    </Link>
  ) : (
    <span className="text-slate">{label}</span>
  )
}

function Body(about: About) {
  const { result, staff, again } = about
  const [search, setSearch] = useSearchParams()
  const { state } = useLocation()
  const { sheet } = result
  if (result.state === 'failed') return <p className="py-6 text-brick">✗ This could not be marked: {result.error}</p>
  if (result.state === 'cancelled') return <p className="py-6 text-slate">This was cancelled before it was marked.</p>
  if (result.state !== 'marked')
    return (
      <p role="status" className="py-6 text-slate">
        {result.state === 'running'
          ? `Being marked…${result.progress?.of ? ` trial ${(result.progress.done ?? 0) + 1} of ${result.progress.of}` : ''}`
          : `Waiting to be marked…${result.progress?.ahead ? ` ${result.progress.ahead} come first` : ''}`}
        <span className="ml-4">
          <Act act={() => remove(`/submissions/${part(result.id)}`).then(again)}>Cancel submission</Act>
        </span>
      </p>
    )
  if (!sheet) return <p className="py-6 text-slate">It is marked.</p>
  if (sheet.failed)
    return (
      <>
        <p className="py-6 text-brick">
          ✗ {sheet.messages ? sheet.failed : `The file could not be put on the chip: ${sheet.failed}`}
        </p>
        <Messages list={sheet.messages} />
      </>
    )
  const worst = sheet.trials.findIndex((t) => t.verdicts.some((v) => v.outcome !== 'met'))
  const chosen = search.get('trial') ?? String(Math.max(0, worst))
  return (
    <WithSource id={result.id}>
      <Causes sheet={sheet} />
      <Tabs.Root value={chosen} onValueChange={(v) => setSearch({ trial: v }, { replace: true, state })}>
        <Tabs.List className="flex flex-wrap gap-x-6 border-b border-line" aria-label="trials">
          {sheet.trials.map((t, i) => (
            <Tabs.Trigger
              key={i}
              value={String(i)}
              className="-mb-px border-b-2 border-transparent py-1 text-slate data-[state=active]:border-bottle data-[state=active]:text-ink"
            >
              {t.name}
              {t.hidden && staff && ' (hidden)'}{' '}
              {!sheet.unmarked && (
                <span className="text-sm text-slate">
                  {+t.marks.toFixed(2)} / {t.of}
                </span>
              )}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {sheet.trials.map((t, i) => (
          <Tabs.Content key={i} value={String(i)}>
            {t.hidden && !staff ? (
              <p className="py-6 text-slate">
                A hidden trial: {+t.marks.toFixed(2)} of {t.of} marks.
              </p>
            ) : (
              <TrialView
                about={about}
                number={i}
                trial={t}
                unmarked={sheet.unmarked}
                findings={sheet.findings.filter((f) => f.trial === t.name && !f.fidelity)}
              />
            )}
          </Tabs.Content>
        ))}
        <ByHand {...about} />
        <Messages list={sheet.messages} />
      </Tabs.Root>
    </WithSource>
  )
}
