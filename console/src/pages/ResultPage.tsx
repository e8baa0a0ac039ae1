import * as Tabs from '@radix-ui/react-tabs'
import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import { get, part } from '../api'
import { Controls } from '../bench/Controls'
import { Display, frameAt } from '../bench/Display'
import { Lanes, lanes, tell } from '../bench/Lanes'
import { type Player, usePlayer } from '../bench/player'
import { useChanges } from '../changes'
import { second, seconds } from '../time'
import type { Finding, Message, Reel, Result, Sheet, Source, Track, Trial, Verdict } from '../types'
import { Problem } from '../ui/Frame'
import { Tally, outcomeColour, outcomeMark } from '../ui/marks'

export function ResultPage() {
  const { id = '' } = useParams()
  const { data, error, refetch } = useQuery({ queryKey: ['result', id], queryFn: () => get<Result>(`/submissions/${part(id)}`) })
  useChanges(data?.class, (s) => {
    if (!s || s.id === id) refetch()
  })
  if (error) return <Problem error={error} />
  if (!data) return null
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-8 pt-6 pb-2">
        <h1 className="text-xl">
          <Link to={`/classes/${data.class}/exercises/${data.exercise}`} className="text-ink">
            {data.title}
          </Link>
          <span className="text-base text-slate">
            {' '}
            · attempt {data.attempt} · {data.student} · <span className="font-mono text-sm">{data.file}</span>
          </span>
        </h1>
        <span className="flex items-baseline gap-6">
          {data.sheet && (
            <>
              <span className="text-xl">
                {data.sheet.marks} / {data.sheet.of}
              </span>
              <Tally {...data} />
            </>
          )}
          <span className="flex gap-4 text-sm">
            <Neighbour id={data.previous} label="‹ previous" />
            <Neighbour id={data.next} label="next ›" />
          </span>
        </span>
      </div>
      <Body key={id} result={data} />
    </>
  )
}

function Neighbour({ id, label }: { id?: string; label: string }) {
  return id ? <Link to={`/submissions/${id}`}>{label}</Link> : <span className="text-slate opacity-60">{label}</span>
}

function Body({ result }: { result: Result }) {
  const [search, setSearch] = useSearchParams()
  const { sheet } = result
  if (result.state === 'failed') return <p className="py-6 text-brick">✗ This could not be marked: {result.error}</p>
  if (!sheet) return <p className="py-6 text-slate">{result.state === 'running' ? 'Being marked…' : 'Waiting to be marked…'}</p>
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
        <Tabs.List className="flex gap-6 border-b border-line" aria-label="trials">
          {sheet.trials.map((t, i) => (
            <Tabs.Trigger key={t.name} value={String(i)} className="-mb-px border-b-2 border-transparent py-1 text-slate data-[state=active]:border-bottle data-[state=active]:text-ink">
              {t.name}{' '}
              <span className="text-sm text-slate">
                {+t.marks.toFixed(2)} / {t.of}
              </span>
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {sheet.trials.map((t, i) => (
          <Tabs.Content key={t.name} value={String(i)}>
            <TrialView id={result.id} number={i} trial={t} findings={sheet.findings.filter((f) => f.trial === t.name && f.mended === undefined)} />
          </Tabs.Content>
        ))}
        <Messages list={sheet.messages} />
      </Tabs.Root>
    </>
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

function TrialView({ id, number, trial, findings }: { id: string; number: number; trial: Trial; findings: Finding[] }) {
  const reel = useQuery({ queryKey: ['reel', id, number], staleTime: Infinity, queryFn: () => get<Reel>(`/submissions/${id}/reels/${number}`) })
  if (reel.error) return <Problem error={reel.error} />
  if (!reel.data) return <p className="py-6 text-slate">Fetching what the displays showed…</p>
  return <Bench trial={trial} reel={reel.data} findings={findings} />
}

function Bench({ trial, reel, findings }: { trial: Trial; reel: Reel; findings: Finding[] }) {
  const rom = useQuery({ queryKey: ['rom'], staleTime: Infinity, queryFn: () => get<number[][]>('/character-rom'), enabled: reel.tracks.some((t) => t.look.grid) })
  const edges = useMemo(() => [...new Set(reel.tracks.flatMap((t) => t.frames.map((f) => f.from)))].sort((a, b) => a - b), [reel])
  const all = useMemo(() => lanes(trial, reel), [trial, reel])
  const player = usePlayer(reel.length, edges)
  return (
    <>
      <div className="grid grid-cols-[minmax(320px,2fr)_3fr] gap-8 pt-4">
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
      <Controls player={player} length={reel.length} />
      <Lanes lanes={all} length={reel.length} time={player.time} seek={player.seek} />
      <Verdicts verdicts={trial.verdicts} player={player} />
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

function Verdicts({ verdicts, player }: { verdicts: Verdict[]; player: Player }) {
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
              <td className="py-1 whitespace-pre-wrap">{v.expectation}</td>
              <td className="py-1 text-sm text-slate">
                {v.evidence?.join('; ')} {v.first && <Moment at={v.first.at} player={player} />}
              </td>
              <td className="number">
                {+v.marks.toFixed(3)} / {v.of}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
