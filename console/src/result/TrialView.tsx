import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useState } from 'react'
import { useSearchParams } from 'react-router'
import { address, get, part } from '../api'
import { Controls } from '../bench/Controls'
import { Display, frameAt } from '../bench/Display'
import { Lanes, lanes, tell } from '../bench/Lanes'
import { usePlayer } from '../bench/player'
import { useROM } from '../bench/Strip'
import { brief, second } from '../time'
import type { Finding, Frame, Reel, Source, Track, Trial } from '../types'
import { Problem } from '../ui/Frame'
import type { About } from './about'
import { sourceAt, useEyeOff, widths } from './EyeOff'
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
  const reel = useQuery({ queryKey: ['reel', id, props.number, revision], staleTime: Infinity, queryFn: () => get<Reel>(`/submissions/${part(id)}/reels/${props.number}`) })
  if (reel.error) return <Problem error={reel.error} />
  if (!reel.data) return <p className="py-6 text-slate">Fetching what the displays showed…</p>
  return <Bench {...props} reel={reel.data} />
}

const captured = /\.vcd$/i

function Bench({ about, number, trial, reel, findings, unmarked }: Props & { reel: Reel }) {
  const rom = useROM(reel)
  const [eye, setEye] = useState(true)
  const [width, setWidth] = useState(20_000)
  const sights = useMemo(() => [...new Set(reel.tracks.flatMap((t) => t.frames.map((f) => f.from)))].sort((a, b) => a - b), [reel])
  const [edges, setEdges] = useState(sights)
  const all = useMemo(() => lanes(trial, reel), [trial, reel])
  const player = usePlayer(reel.length, eye ? sights : edges)
  const { seen, error, waiting } = useEyeOff(about.result.id, number, !eye, player.time, width, reel.length)
  useEffect(() => {
    // changes as far as they are known, and sights beyond
    if (seen) setEdges([...sights.filter((t) => t < seen.from), ...seen.edges, ...sights.filter((t) => t > seen.to)])
  }, [seen, sights])
  const [search, setSearch] = useSearchParams()
  useEffect(() => {
    // a deep link to a moment, in seconds
    const at = Number(search.get('at'))
    if (at > 0 && search.get('trial') === String(number)) player.seek(at * second)
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
  const at = seen && sourceAt(seen, player.time)
  const now = useMemo(() => (at ? place(at) : undefined), [at])
  return (
    <>
      <div className="grid gap-8 pt-4 md:grid-cols-[minmax(320px,2fr)_3fr]">
        <div>
          <div className="flex flex-wrap items-end justify-center gap-4 rounded-sm bg-well p-6" data-testid="bench">
            {reel.tracks.map((t) => (
              <OnBench
                key={t.display}
                track={t}
                frame={seen?.frames[t.display] ? frameAt({ frames: seen.frames[t.display] }, player.time) : frameAt(t, player.time)}
                unlit={dark(reel, t, player.time)}
                rom={rom}
              />
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
          <Controls
            player={player}
            length={reel.length}
            eye={eye}
            setEye={
              captured.test(about.result.file)
                ? undefined
                : (on) => {
                    setEye(on)
                    player.setSpeed(on ? 1 : 0.001)
                  }
            }
          />
        </div>
        <a className="text-sm" href={address(`/submissions/${part(about.result.id)}/reels/${number}/film.svg`)}>
          film strip
        </a>
        <a className="text-sm" href={address(`/submissions/${part(about.result.id)}/reels/${number}/still.png?at=${Math.floor(player.time / 1e6)}`)}>
          picture
        </a>
        <button type="button" className="quiet" onClick={() => setSearch({ trial: String(number), at: (player.time / second).toFixed(6) }, { replace: true })}>
          Link to this moment
        </button>
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
          {waiting ? 'running it again…' : error ? <span className="text-brick">✗ {error.message}</span> : seen && `${seen.edges.length - 1} changes${seen.left ? `, and ${seen.left} that did not fit: look at less` : ''}`}
          {at && <span className="font-mono">{at.replace(/:(\d+)$/, ' line $1')}</span>}
        </p>
      )}
      <Lanes lanes={all} waves={seen?.waves} around={seen && [seen.from, seen.to]} length={reel.length} time={player.time} seek={player.seek} />
      <Verdicts about={about} number={number} verdicts={trial.verdicts} reel={reel} player={player} unmarked={unmarked} />
      {!!reel.log?.length && (
        <details className="border-t border-line py-2">
          <summary className="text-bottle">bus log</summary>
          <div className="max-h-64 overflow-auto" tabIndex={0} role="region" aria-label="bus log">
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
          <pre className="max-h-64 overflow-auto font-mono text-sm" tabIndex={0}>
            {reel.serial}
          </pre>
        </details>
      )}
      <SourceText now={now} />
    </>
  )
}

// place reads FILE:LINE; what is an address has none.
function place(text: string): Source | undefined {
  const m = /^(.*):(\d+)$/.exec(text)
  return m ? { file: m[1], line: Number(m[2]) } : undefined
}

// A display without the light behind it is hard to read.
function dark(reel: Reel, track: Track, time: number) {
  const light = reel.tracks.find((b) => b.display === `${track.display}-backlight`)
  return !!light && !frameAt(light, time)?.sight.lights?.includes('1')
}

function OnBench({ track, frame, unlit, rom }: { track: Track; frame?: Frame; unlit: boolean; rom?: number[][] }) {
  const wide = track.look.width > 250 ? 'w-full' : track.look.width < 100 && track.look.form !== 'digits' ? 'w-20' : 'w-36'
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
