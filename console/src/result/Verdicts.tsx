import { memo } from 'react'
import { seconds } from '../time'
import type { Finding, Reel, Trial, Verdict } from '../types'
import { OverrideAll } from '../ui/MarkMany'
import { outcomeColour, outcomeMark } from '../ui/marks'
import { type About, exerciseOf } from './about'
import { AcceptToo } from './Accept'
import { SourceLine } from './SourceText'

type Seek = (t: number) => void

function Moment({ at, seek }: { at: number; seek: Seek }) {
  return (
    <button
      type="button"
      className="inline-block min-h-6 min-w-6 font-mono text-bottle underline underline-offset-3"
      onClick={() => seek(at)}
    >
      {seconds(at)}
    </button>
  )
}

// WrongList tells each first difference and each finding, the moment one click away.
export const WrongList = memo(function WrongList({
  trial,
  findings,
  seek,
}: {
  trial: Trial
  findings: Finding[]
  seek: Seek
}) {
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
              {v.display}, <Moment at={v.first!.at} seek={seek} />: expected {v.first!.expected}, saw {v.first!.seen}
              <SourceLine source={v.source} />
            </span>
          </li>
        ))}
        {findings.map((f, i) => (
          <li key={`f${i}`} className="flex gap-3 border-t border-line py-2">
            <span className="text-slate">·</span>
            <span>
              {f.text} <Moment at={f.at} seek={seek} />
              <SourceLine source={f.source} />
            </span>
          </li>
        ))}
      </ul>
    </>
  )
})

export const Verdicts = memo(function Verdicts({
  about,
  number,
  verdicts,
  reel,
  seek,
  unmarked,
}: {
  about: About
  number: number
  verdicts: Verdict[]
  reel: Reel
  seek: Seek
  unmarked?: boolean
}) {
  const { result, staff, answers, again } = about
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
                {v.notes && <span className="block text-sm text-slate">note for markers: {v.notes}</span>}
              </td>
              <td className="py-1 text-sm text-slate">
                {v.evidence?.join('; ')} {v.first && <Moment at={v.first.at} seek={seek} />}
              </td>
              <td className="number">
                {unmarked ? `of ${v.of}` : `${+v.marks.toFixed(3)} / ${v.of}`}
                {!unmarked && v.plain !== undefined && v.plain !== v.marks && !v.given && (
                  <span className="block text-sm text-slate">
                    {+v.plain.toFixed(3)} for what was seen; a mistake costs once
                  </span>
                )}
                {v.given && (
                  <span className="block text-sm text-slate">
                    {v.given.by}: {v.given.reason}
                  </span>
                )}
                {answers && v.outcome !== 'met' && v.display && (
                  <AcceptToo result={result} trial={number} verdict={i} about={v} reel={reel} />
                )}
                {staff && (
                  <OverrideAll
                    at={exerciseOf(result)}
                    className={result.class}
                    submissions={[result.id]}
                    of={v.of}
                    what={v.expectation}
                    where={{ trial: number, verdict: i }}
                    done={again}
                  />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
})
