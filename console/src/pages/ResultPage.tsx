import * as Tabs from '@radix-ui/react-tabs'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { address, get, part, remove } from '../api'
import { Controls } from '../bench/Controls'
import { Display, frameAt } from '../bench/Display'
import { Lanes, lanes, tell } from '../bench/Lanes'
import { type Player, usePlayer } from '../bench/player'
import { useChanges } from '../changes'
import { second, seconds, when } from '../time'
import type { Finding, Message, Reel, Result, Sheet, Source, Track, Trial, Verdict } from '../types'
import { Problem, Waiting, useSession } from '../ui/Frame'
import { CommentAll, OverrideAll } from '../ui/MarkMany'
import { Tally, outcomeColour, outcomeMark } from '../ui/marks'

// What the parts of the page need of the submission that it is about.
interface About {
  result: Result
  staff: boolean
  again: () => void
}

export function ResultPage() {
  const { id = '' } = useParams()
  const navigate = useNavigate()
  const { data, error, refetch } = useQuery({ queryKey: ['result', id], queryFn: () => get<Result>(`/submissions/${part(id)}`) })
  const session = useSession()
  useChanges(data?.class, (s) => {
    if (!s || s.id === id) refetch()
  })
  useEffect(() => {
    // n and p go to the next and the previous one, where nothing is being written
    const key = (e: KeyboardEvent) => {
      const to = e.key === 'n' ? data?.next : e.key === 'p' ? data?.previous : undefined
      const writing = (e.target as HTMLElement).closest('input, textarea, select, [role=dialog], [contenteditable=true]')
      if (to && !writing && !e.ctrlKey && !e.metaKey && !e.altKey) navigate(`/submissions/${to}`)
    }
    addEventListener('keydown', key)
    return () => removeEventListener('keydown', key)
  }, [data?.next, data?.previous, navigate])
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const mine = session.data?.classes?.find((c) => c.name === data.class)
  const staff = session.data?.role === 'admin' || (!!mine && mine.role !== 'student')
  const about: About = { result: data, staff, again: () => void refetch() }
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-8 pt-6 pb-2">
        <h1 className="text-xl">
          <Link to={`/classes/${data.class}/exercises/${data.exercise}`} className="text-ink">
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
              {data.touched && <span title="changed by hand"> *</span>}
            </span>
          )}
          {data.met + data.partly + data.missed > 0 && <Tally {...data} />}
          <span className="flex gap-4 text-sm">
            <Neighbour id={data.previous} label="‹ previous" />
            <Neighbour id={data.next} label="next ›" />
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

function Neighbour({ id, label }: { id?: string; label: string }) {
  return id ? <Link to={`/submissions/${id}`}>{label}</Link> : <span className="text-slate">{label}</span>
}

function Body({ result, staff, again }: About) {
  const [search, setSearch] = useSearchParams()
  const { sheet } = result
  if (result.state === 'failed') return <p className="py-6 text-brick">✗ This could not be marked: {result.error}</p>
  if (result.state === 'cancelled') return <p className="py-6 text-slate">This was cancelled before it was marked.</p>
  if (result.state !== 'marked')
    return (
      <p role="status" className="py-6 text-slate">
        {result.state === 'running' ? `Being marked…${result.progress?.of ? ` trial ${(result.progress.done ?? 0) + 1} of ${result.progress.of}` : ''}` : `Waiting to be marked…${result.progress?.ahead ? ` ${result.progress.ahead} come first` : ''}`}
        <button type="button" className="quiet ml-4" onClick={() => remove(`/submissions/${part(result.id)}`).then(again)}>
          Cancel it
        </button>
      </p>
    )
  if (!sheet) return <p className="py-6 text-slate">It is marked.</p>
  if (sheet.failed)
    return (
      <>
        <p className="py-6 text-brick">✗ {sheet.messages ? sheet.failed : `The file could not be put on the chip: ${sheet.failed}`}</p>
        <Messages list={sheet.messages} />
      </>
    )
  const worst = sheet.trials.findIndex((t) => t.verdicts.some((v) => v.outcome !== 'met'))
  const chosen = search.get('trial') ?? String(Math.max(0, worst))
  return (
    <>
      <Causes sheet={sheet} />
      <Tabs.Root value={chosen} onValueChange={(v) => setSearch({ trial: v }, { replace: true })}>
        <Tabs.List className="flex flex-wrap gap-x-6 border-b border-line" aria-label="trials">
          {sheet.trials.map((t, i) => (
            <Tabs.Trigger key={i} value={String(i)} className="-mb-px border-b-2 border-transparent py-1 text-slate data-[state=active]:border-bottle data-[state=active]:text-ink">
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
              <TrialView about={{ result, staff, again }} number={i} trial={t} unmarked={sheet.unmarked} findings={sheet.findings.filter((f) => f.trial === t.name && f.mended === undefined)} />
            )}
          </Tabs.Content>
        ))}
        <ByHand result={result} staff={staff} again={again} />
        <Messages list={sheet.messages} />
      </Tabs.Root>
    </>
  )
}

// ByHand is the rows that a person marks.
function ByHand({ result, staff, again }: About) {
  const rows = result.sheet?.by_hand
  if (!rows?.length) return null
  return (
    <section className="pb-6">
      <h2 className="pb-2 text-lg">Marked by hand</h2>
      <table className="book">
        <tbody>
          {rows.map((r, i) => (
            <tr key={i}>
              <td>
                {r.what} {r.notes && <span className="text-sm text-slate">{r.notes}</span>}
              </td>
              <td className="text-sm text-slate">{r.given && `${r.given.by}: ${r.given.reason}`}</td>
              <td className="number">
                {r.given ? r.given.marks : '–'} / {r.of}
                {staff && <OverrideAll at={exerciseOf(result)} className={result.class} submissions={[result.id]} of={r.of} what={r.what} where={{ row: i }} done={again} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}

const exerciseOf = (r: Result) => `/classes/${part(r.class)}/exercises/${part(r.exercise)}`

// Said is what people said of a submission and did to its marks.
function Said({ result, staff, again }: About) {
  const at = exerciseOf(result)
  return (
    <section aria-labelledby="said" className="border-t-2 border-ink py-4">
      <div className="flex flex-wrap items-baseline justify-between gap-x-6">
        <h2 id="said" className="text-lg">
          {staff ? 'Comments and changed marks' : 'Comments'}
        </h2>
        {staff && (
          <span>
            <CommentAll at={at} className={result.class} submissions={[result.id]} done={again} />
            {result.state === 'marked' && <OverrideAll at={at} className={result.class} submissions={[result.id]} done={again} />}
          </span>
        )}
      </div>
      <ul>
        {result.comments?.map((c) => (
          <li key={c.id} className="flex justify-between gap-4 border-t border-line py-2">
            <span className="whitespace-pre-line">
              {c.text}{' '}
              <span className="text-sm text-slate">
                {c.by}, {when(c.created)}
              </span>
            </span>
            {staff && (
              <button type="button" className="quiet" onClick={() => remove(`/submissions/${part(result.id)}/comments/${c.id}`).then(again)}>
                Take back
              </button>
            )}
          </li>
        ))}
        {result.overrides?.map((o) => (
          <li key={o.id} className="flex justify-between gap-4 border-t border-line py-2">
            <span>
              {o.row !== undefined ? `row ${o.row + 1}` : o.trial !== undefined ? `trial ${o.trial + 1}, expectation ${(o.verdict ?? 0) + 1}` : 'the whole'}: <strong>{o.marks}</strong>, {o.reason}{' '}
              <span className="text-sm text-slate">
                {o.by}, {when(o.created)}
              </span>
            </span>
            <button type="button" className="quiet" onClick={() => remove(`/submissions/${part(result.id)}/overrides/${o.id}`).then(again)}>
              Take back
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

const kinds: Record<string, [string, string]> = { error: ['✗', 'text-brick'], warning: ['≈', 'text-amber'] }

// Messages are the compiler's, each with the line it is about.
function Messages({ list }: { list?: Message[] }) {
  if (!list?.length) return null
  return (
    <section className="pb-6">
      <h2 className="pb-2 text-lg">What the compiler said</h2>
      <ul>
        {list.map((m, i) => {
          const [sign, colour] = kinds[m.kind] ?? ['·', 'text-slate']
          return (
            <li key={i} className="border-t border-line py-2">
              <p>
                <span className={`${colour} pr-3`}>
                  {sign} {m.kind}
                </span>
                {m.text}
                {m.file && (
                  <span className="pl-4 font-mono text-sm text-slate">
                    {m.line ? `line ${m.line} ` : ''}
                    {m.file}
                  </span>
                )}
              </p>
              {m.code && <pre className="overflow-x-auto pl-8 font-mono text-sm">{`${m.code}${m.column ? `\n${m.code.slice(0, m.column - 1).replace(/[^\t]/g, ' ')}▲` : ''}`}</pre>}
            </li>
          )
        })}
      </ul>
    </section>
  )
}

interface TrialProps {
  about: About
  number: number
  trial: Trial
  findings: Finding[]
  unmarked?: boolean
}

function TrialView(props: TrialProps) {
  const { id, revision } = props.about.result
  const reel = useQuery({ queryKey: ['reel', id, props.number, revision], staleTime: Infinity, queryFn: () => get<Reel>(`/submissions/${part(id)}/reels/${props.number}`) })
  if (reel.error) return <Problem error={reel.error} />
  if (!reel.data) return <p className="py-6 text-slate">Fetching what the displays showed…</p>
  return <Bench {...props} reel={reel.data} />
}

function Bench({ about, number, trial, reel, findings, unmarked }: TrialProps & { reel: Reel }) {
  const rom = useQuery({ queryKey: ['rom'], staleTime: Infinity, queryFn: () => get<number[][]>('/character-rom'), enabled: reel.tracks.some((t) => t.look.grid) })
  const edges = useMemo(() => [...new Set(reel.tracks.flatMap((t) => t.frames.map((f) => f.from)))].sort((a, b) => a - b), [reel])
  const all = useMemo(() => lanes(trial, reel), [trial, reel])
  const player = usePlayer(reel.length, edges)
  const [search, setSearch] = useSearchParams()
  useEffect(() => {
    // a deep link to a moment, in seconds
    const at = Number(search.get('at'))
    if (at > 0 && search.get('trial') === String(number)) player.seek(at * second)
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
  return (
    <>
      <div className="grid gap-8 pt-4 md:grid-cols-[minmax(320px,2fr)_3fr]">
        <div>
          <div className="flex flex-wrap items-end justify-center gap-4 rounded-sm bg-well p-6" data-testid="bench">
            {reel.tracks.map((t) => (
              <OnBench key={t.display} track={t} light={reel.tracks.find((b) => b.display === `${t.display}-backlight`)} time={player.time} rom={rom.data} />
            ))}
            {[...new Set(reel.cues?.map((c) => c.part))].map((part) => {
              const pressed = reel.cues!.some((c) => c.part === part && c.start <= player.time && player.time < c.end)
              return (
                <span key={part} className={`mb-6 rounded-full border px-4 py-1 text-sm ${pressed ? 'border-[#f4efe3] bg-[#f4efe3] text-[#1e2a2b]' : 'border-[#8b8378] text-[#c9c0b2]'}`}>
                  {part}
                  {pressed ? ', pressed' : ''}
                </span>
              )
            })}
          </div>
        </div>
        <div className="text-[15px]">
          <WrongList trial={trial} findings={findings} player={player} />
        </div>
      </div>
      <div className="flex flex-wrap items-center justify-between gap-x-6">
        <div className="min-w-0 grow">
          <Controls player={player} length={reel.length} />
        </div>
        <button type="button" className="quiet" onClick={() => setSearch({ trial: String(number), at: (player.time / second).toFixed(6) }, { replace: true })}>
          Link to this moment
        </button>
      </div>
      <Lanes lanes={all} length={reel.length} time={player.time} seek={player.seek} />
      <Verdicts about={about} number={number} verdicts={trial.verdicts} player={player} unmarked={unmarked} />
      {!!reel.log?.length && (
        <details className="border-t border-line py-2">
          <summary className="text-bottle">bus log</summary>
          <div className="max-h-64 overflow-auto">
            <table className="font-mono text-sm">
              <tbody>
                {reel.log.map((e, i) => (
                  <tr key={i}>
                    <td className="pr-4 text-right align-top">
                      <button type="button" className="text-bottle underline underline-offset-3" onClick={() => player.seek(e.at)}>
                        {(e.at / second).toFixed(6)} s
                      </button>
                    </td>
                    <td className="pr-4 align-top whitespace-nowrap text-slate">{e.part}</td>
                    <td className="whitespace-pre-wrap">{tell(e)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {reel.unlogged ? <p className="text-slate">… and {reel.unlogged} more that did not fit the log</p> : null}
          </div>
        </details>
      )}
      {reel.serial && (
        <details className="border-t border-line py-2">
          <summary className="text-bottle">terminal</summary>
          <pre className="max-h-64 overflow-auto font-mono text-sm">{reel.serial}</pre>
        </details>
      )}
    </>
  )
}

// A display without the light behind it is hard to read.
function OnBench({ track, light, time, rom }: { track: Track; light?: Track; time: number; rom?: number[][] }) {
  const frame = frameAt(track, time)
  const wide = track.look.width > 250 ? 'w-full' : track.look.width < 100 && track.look.form !== 'digits' ? 'w-20' : 'w-36'
  const unlit = light && !frameAt(light, time)?.sight.lights?.includes('1')
  const { refresh, ghost } = track.quality ?? {}
  return (
    <figure className={`${wide} ${unlit ? '[&>svg]:brightness-[0.35]' : ''}`}>
      <Display look={track.look} sight={frame?.sight} custom={track.custom} rom={rom} label={`${track.display} shows ${frame?.text ?? 'nothing'}`} />
      <figcaption className="text-center text-sm text-[#c9c0b2]">
        {track.display}
        {refresh ? `, ${refresh} Hz` : ''}
        {ghost ? `, ghosts ${ghost} %` : ''}
      </figcaption>
    </figure>
  )
}

function Moment({ at, player }: { at: number; player: Player }) {
  return (
    <button type="button" className="font-mono text-bottle underline underline-offset-3" onClick={() => player.seek(at)}>
      {seconds(at)}
    </button>
  )
}

function SourceLine({ source }: { source?: Source }) {
  return source ? (
    <span className="pl-4 font-mono text-sm whitespace-nowrap text-slate">
      line {source.line} {source.file}
    </span>
  ) : null
}

const tested: Record<string, string> = { reel: 'judged again', run: 'run again' }

// Causes are those that were tested by mending them: they are about the whole sheet.
function Causes({ sheet }: { sheet: Sheet }) {
  const causes = sheet.findings.filter((f) => f.mended !== undefined)
  if (!causes.length) return null
  return (
    <section className="pb-6" aria-labelledby="causes">
      <h2 id="causes" className="pb-2 text-lg">
        Likely {causes.length > 1 ? 'causes' : 'cause'}
      </h2>
      <ul>
        {causes.map((f, i) => (
          <li key={i} className="flex gap-3 border-t border-line py-2">
            <span className="text-brick">✗</span>
            <span>
              {f.text}{' '}
              <strong className="text-moss">
                With this mended{i > 0 ? ', too' : ''}: {+f.mended!.toFixed(2)} / {sheet.of}
              </strong>{' '}
              <span className="text-sm text-slate">
                {tested[f.fidelity ?? '']}; {f.trial}
                {f.evidence.map((e) => `, ${e}`)}
              </span>
              <SourceLine source={f.source} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

// WrongList tells each first difference and each finding, the moment one click away.
function WrongList({ trial, findings, player }: { trial: Trial; findings: Finding[]; player: Player }) {
  const wrong = trial.verdicts.filter((v) => v.first)
  if (!wrong.length && !findings.length) {
    return (
      <>
        <h2 className="pb-2 text-lg">Nothing went wrong</h2>
        <p className="text-slate">Every expectation of this trial was met.</p>
      </>
    )
  }
  return (
    <>
      <h2 className="pb-2 text-lg">What went wrong</h2>
      <ul>
        {wrong.map((v, i) => (
          <li key={i} className="flex gap-3 border-t border-line py-2">
            <span className={outcomeColour[v.outcome]}>{outcomeMark[v.outcome]}</span>
            <span className="whitespace-pre-wrap">
              {v.display}, <Moment at={v.first!.at} player={player} />: expected {v.first!.expected}, saw {v.first!.seen}
              <SourceLine source={v.source} />
            </span>
          </li>
        ))}
        {findings.map((f, i) => (
          <li key={`f${i}`} className="flex gap-3 border-t border-line py-2">
            <span className="text-slate">·</span>
            <span>
              {f.text} <Moment at={f.at} player={player} />
              <SourceLine source={f.source} />
            </span>
          </li>
        ))}
      </ul>
    </>
  )
}

function Verdicts({ about, number, verdicts, player, unmarked }: { about: About; number: number; verdicts: Verdict[]; player: Player; unmarked?: boolean }) {
  const { result, staff, again } = about
  return (
    <section className="py-6">
      <h2 className="pb-2 text-lg">Verdicts</h2>
      <table className="book">
        <tbody>
          {verdicts.map((v, i) => (
            <tr key={i}>
              <td className={`w-28 whitespace-nowrap ${outcomeColour[v.outcome]}`}>
                {outcomeMark[v.outcome]} {v.outcome}
              </td>
              <td className="py-1 whitespace-pre-wrap">
                {v.expectation}
                {v.notes && <span className="block text-sm text-slate">for markers: {v.notes}</span>}
              </td>
              <td className="py-1 text-sm text-slate">
                {v.evidence?.join('; ')} {v.first && <Moment at={v.first.at} player={player} />}
              </td>
              <td className="number">
                {unmarked ? `of ${v.of}` : `${+v.marks.toFixed(3)} / ${v.of}`}
                {v.given && (
                  <span className="block text-sm text-slate">
                    {v.given.by}: {v.given.reason}
                  </span>
                )}
                {staff && <OverrideAll at={exerciseOf(result)} className={result.class} submissions={[result.id]} of={v.of} what={v.expectation} where={{ trial: number, verdict: i }} done={again} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
