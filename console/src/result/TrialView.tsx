import { useQuery } from '@tanstack/react-query'
import { memo, useCallback, useEffect, useMemo, useState } from 'react'
import { useNavigate, useSearchParams } from 'react-router'
import { address, get, part } from '../api'
import { Controls } from '../bench/Controls'
import { frameAt } from '../bench/Display'
import { OnBench, lit, onTheWall } from '../bench/OnBench'
import { Lanes, lanes, tell } from '../bench/Lanes'
import { type Clock, usePlayer, useTime } from '../bench/player'
import { useROM } from '../bench/Strip'
import { brief, second } from '../time'
import type { Finding, Reel, Source, Trial } from '../types'
import { Problem } from '../ui/Frame'
import { InTurn } from '../ui/Place'
import type { About } from './about'
import { useEyeOff, widths } from './EyeOff'
import { type Seen, sourceAt } from './seen'
import { SourceText } from './SourceText'
import { Verdicts, WrongList } from './Verdicts'

interface Props {
  about: About
  number: number
  trial: Trial
  findings: Finding[]
  unmarked?: boolean
}

export function TrialView(props: Props) {
  const { id, revision } = props.about.result
  const reel = useQuery({
    queryKey: ['reel', id, props.number, revision],
    staleTime: Infinity,
    queryFn: () => get<Reel>(`/submissions/${part(id)}/reels/${props.number}`),
  })
  if (reel.error) return <Problem error={reel.error} />
  if (!reel.data)
    return (
      <p className="py-6 text-slate">
        <InTurn during="Loading the reel…" />
      </p>
    )
  return <Bench {...props} reel={reel.data} />
}

const captured = /\.vcd$/i

function Bench({ about, number, trial, reel, findings, unmarked }: Props & { reel: Reel }) {
  const rom = useROM(reel.tracks)
  const [eye, setEye] = useState(true)
  const [width, setWidth] = useState(20_000)
  const shown = useMemo(
    () => [...new Set(reel.tracks.flatMap((t) => t.frames.map((f) => f.from)))].sort((a, b) => a - b),
    [reel],
  )
  const [edges, setEdges] = useState(shown)
  const all = useMemo(() => lanes(trial, reel), [trial, reel])
  const player = usePlayer(reel.length, eye ? shown : edges)
  const time = useTime(player.clock, !eye)
  const { seen, error, waiting } = useEyeOff(about.result.id, number, !eye, time, width, reel.length)
  const [known, setKnown] = useState(seen)
  if (seen && seen !== known) {
    // changes as far as they are known, and states beyond
    setKnown(seen)
    setEdges([...shown.filter((t) => t < seen.from), ...seen.edges, ...shown.filter((t) => t > seen.to)])
  }
  const [search, setSearch] = useSearchParams()
  useEffect(() => {
    // a deep link to a moment, in seconds
    const at = Number(search.get('at'))
    if (at > 0 && search.get('trial') === String(number)) player.seek(at * second)
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
  const { setSpeed } = player
  const switchEye = useCallback(
    (on: boolean) => {
      setEye(on)
      setSpeed(on ? 1 : 0.001)
    },
    [setSpeed],
  )
  const at = seen && sourceAt(seen, time)
  const now = useMemo(() => (at ? place(at) : undefined), [at])
  return (
    <>
      <div className="grid gap-8 pt-4 md:grid-cols-[minmax(320px,2fr)_3fr]">
        <div>
          <Displays reel={reel} seen={seen} clock={player.clock} rom={rom} />
        </div>
        <div className="text-[15px]">
          <WrongList trial={trial} findings={findings} seek={player.seek} />
        </div>
      </div>
      <div className="flex flex-wrap items-center justify-between gap-x-6">
        <div className="min-w-0 grow">
          <Controls
            player={player}
            length={reel.length}
            eye={eye}
            setEye={captured.test(about.result.file) ? undefined : switchEye}
          />
        </div>
        <Moment
          at={`/submissions/${part(about.result.id)}/reels/${number}`}
          clock={player.clock}
          bench={
            about.staff && !captured.test(about.result.file)
              ? (t) => `/submissions/${part(about.result.id)}/bench?trial=${number}&at=${(t / second).toFixed(6)}`
              : undefined
          }
          link={(t) =>
            setSearch(
              { trial: String(number), at: (t / second).toFixed(6) },
              { replace: true, state: history.state?.usr },
            )
          }
        />
      </div>
      {!eye && (
        <p className="flex flex-wrap items-center gap-x-4 pb-2 text-sm text-slate" role="status">
          <label>
            around this moment{' '}
            <select className="field w-auto" value={width} onChange={(e) => setWidth(Number(e.target.value))}>
              {widths.map((w) => (
                <option key={w} value={w}>
                  {brief(w * 1e6)}
                </option>
              ))}
            </select>
          </label>
          {waiting ? (
            <InTurn during="running the trial again…" />
          ) : error ? (
            <span className="text-brick">✗ {error.message}</span>
          ) : (
            seen &&
            `${seen.edges.length - 1} changes${seen.left ? `, and ${seen.left} more: choose a shorter period` : ''}`
          )}
          {at && <span className="font-mono">{at.replace(/:(\d+)$/, ' line $1')}</span>}
        </p>
      )}
      <Lanes
        lanes={all}
        waves={seen?.waves}
        around={seen && [seen.from, seen.to]}
        length={reel.length}
        clock={player.clock}
        seek={player.seek}
      />
      <Verdicts
        about={about}
        number={number}
        verdicts={trial.verdicts}
        reel={reel}
        seek={player.seek}
        unmarked={unmarked}
      />
      <Written reel={reel} seek={player.seek} />
      <SourceText now={now} />
    </>
  )
}

// Written is what went over buses and to the terminal, in words.
const Written = memo(function Written({ reel, seek }: { reel: Reel; seek: (t: number) => void }) {
  return (
    <>
      {!!reel.log?.length && (
        <details className="border-t border-line py-2">
          <summary className="text-bottle">bus log</summary>
          <div className="max-h-64 overflow-auto" tabIndex={0} role="region" aria-label="bus log">
            <table className="font-mono text-sm">
              <tbody>
                {reel.log.map((e, i) => (
                  <tr key={i}>
                    <td className="pr-4 text-right align-top">
                      <button
                        type="button"
                        className="text-bottle underline underline-offset-3"
                        onClick={() => seek(e.at)}
                      >
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
          <pre className="max-h-64 overflow-auto font-mono text-sm" tabIndex={0}>
            {reel.serial}
          </pre>
        </details>
      )}
    </>
  )
})

// Moment leads to this very moment: by a link, as a picture, and to the film of all of them.
function Moment({
  at,
  clock,
  link,
  bench,
}: {
  at: string
  clock: Clock
  link: (t: number) => void
  bench?: (t: number) => string
}) {
  const navigate = useNavigate()
  return (
    <span className="flex items-center gap-3 text-sm">
      <a href={address(`${at}/film.svg`)}>film strip</a>
      <a
        href={address(`${at}/still.png`)}
        onClick={(e) => (e.currentTarget.href = address(`${at}/still.png?at=${Math.floor(clock.now() / 1e6)}`))}
      >
        picture
      </a>
      <button type="button" className="quiet" onClick={() => link(clock.now())}>
        Link to this moment
      </button>
      {bench && (
        <button type="button" className="quiet" onClick={() => navigate(bench(clock.now()))}>
          Continue by hand from here
        </button>
      )}
    </span>
  )
}

// Displays are the instruments on the wall, as they are at the time.
function Displays({ reel, seen, clock, rom }: { reel: Reel; seen?: Seen; clock: Clock; rom?: number[][] }) {
  const time = useTime(clock)
  return (
    <div className="flex flex-wrap items-end justify-center gap-4 rounded-sm bg-well p-6" data-testid="bench">
      {onTheWall(reel.tracks).map((t) => (
        <OnBench
          key={t.display}
          track={t}
          frame={frameAt(seen?.frames[t.display] ? { frames: seen.frames[t.display] } : t, time)}
          lit={lit(reel.tracks, t, (b) => frameAt(b, time))}
          rom={rom}
        />
      ))}
      {[...new Set(reel.cues?.map((c) => c.part))].map((part) => {
        const pressed = reel.cues!.some((c) => c.part === part && c.start <= time && time < c.end)
        return (
          <span
            key={part}
            className={`mb-6 rounded-full border px-4 py-1 text-sm ${pressed ? 'border-[#f4efe3] bg-[#f4efe3] text-[#1e2a2b]' : 'border-[#8b8378] text-[#c9c0b2]'}`}
          >
            {part}
            {pressed ? ', pressed' : ''}
          </span>
        )
      })}
    </div>
  )
}

// place reads FILE:LINE; what is an address has none.
function place(text: string): Source | undefined {
  const m = /^(.*):(\d+)$/.exec(text)
  return m ? { file: m[1], line: Number(m[2]) } : undefined
}
