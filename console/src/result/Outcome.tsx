import { Strips, useROM } from '../bench/Strip'
import { brief, seconds } from '../time'
import type { Pair, Tried } from '../types'
import { outcomeColour, outcomeMark } from '../ui/marks'
import { Messages } from './Messages'

// Outcome is what a firmware showed, and how it was marked.
export function Outcome({ tried: { sheet, reels } }: { tried: Tried }) {
  const rom = useROM(reels.flatMap((r) => r.tracks))
  return (
    <section aria-label="what it shows" className="pt-2">
      <p className="text-lg">
        {!sheet.unmarked && `${sheet.marks} / ${sheet.of}`}
        {sheet.exact !== undefined && <span className="pl-2 text-sm text-slate">rounded from {sheet.exact}</span>}
      </p>
      {sheet.failed && <p className="whitespace-pre-wrap text-brick">✗ {sheet.failed}</p>}
      <Messages list={sheet.messages} />
      {sheet.findings.map((f, i) => (
        <p key={i} className="border-t border-line py-1 text-sm">
          <span className="pr-2 text-slate">·</span>
          {f.text}
        </p>
      ))}
      {sheet.trials.map((t, i) => (
        <section key={t.name} className="pt-3">
          <h3 className="border-t-2 border-ink pt-1">{t.name}</h3>
          {reels[i] && <Strips tracks={reels[i].tracks} rom={rom} />}
          <ul className="text-sm">
            {t.verdicts.map((v, k) => (
              <li key={k} className="flex gap-3 border-t border-line py-1">
                <span className={`w-24 shrink-0 ${outcomeColour[v.outcome]}`}>
                  {outcomeMark[v.outcome]} {v.outcome}
                </span>
                <span className="grow">
                  {v.expectation}
                  {v.evidence?.map((e) => (
                    <span key={e} className="block text-slate">
                      {e}
                    </span>
                  ))}
                  {v.first && v.outcome !== 'met' && (
                    <span className="block">
                      first difference at {seconds(v.first.at)}: expected {v.first.expected}, saw {v.first.seen}
                    </span>
                  )}
                  {v.outcome !== 'met' && !!v.alignment?.length && <Steps alignment={v.alignment} />}
                </span>
                {!sheet.unmarked && (
                  <span className="whitespace-nowrap">
                    {+v.marks.toFixed(3)} / {v.of}
                  </span>
                )}
              </li>
            ))}
          </ul>
        </section>
      ))}
    </section>
  )
}

// Steps are the frames of a sequence that are not right, one after the other.
function Steps({ alignment }: { alignment: Pair[] }) {
  const wrong = alignment.filter((p) => p.operation !== 'right' && p.operation !== 'ignored')
  return (
    <ol className="text-slate">
      {wrong.slice(0, 6).map((p, i) => (
        <li key={i}>
          {seconds((p.seen ?? p.expected)!.from)}: {p.operation}
          {p.seen ? `, ${p.seen.text} for ${brief(p.seen.to - p.seen.from)}` : ''}
          {p.expected
            ? ` where ${p.expected.text}${p.operation === 'mistimed' ? ` for ${brief(p.expected.to - p.expected.from)}` : ''} was expected`
            : ''}
        </li>
      ))}
      {wrong.length > 6 && <li>… and {wrong.length - 6} more</li>}
    </ol>
  )
}
