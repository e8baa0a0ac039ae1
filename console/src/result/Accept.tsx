import * as Radix from '@radix-ui/react-dialog'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { part, post, send } from '../api'
import { Display } from '../bench/Display'
import { useROM } from '../bench/Strip'
import { seconds } from '../time'
import type { Accepted, Exercise, Proposal, Reel, Result, Verdict } from '../types'
import { Wide } from '../ui/Wide'
import { exerciseOf } from './about'

interface Props {
  result: Result
  trial: number
  verdict: number
  about: Verdict
  reel: Reel
}

// What can be accepted of a sequence as a whole.
const sequences = ['shows', 'counts', 'any-of']

// AcceptToo makes something that this submission showed right, too, for everybody: it is previewed whose marks would change.
export function AcceptToo(props: Props) {
  const [open, setOpen] = useState(false)
  return (
    <Radix.Root open={open} onOpenChange={setOpen}>
      <Radix.Trigger asChild>
        <button type="button" className="quiet">
          Accept as correct…
        </button>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Radix.Content className="fixed top-[6vh] left-1/2 z-30 max-h-[88vh] w-[860px] max-w-[94vw] -translate-x-1/2 overflow-auto border-2 border-ink bg-paper p-6">
          <Radix.Title className="text-lg">Accept as correct</Radix.Title>
          <Radix.Description className="pb-2 text-sm text-slate">
            It becomes an alternative in the exercise, for everybody. Nothing changes until you save it, and marks
            change only when you apply them.
          </Radix.Description>
          <Choose {...props} />
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}

function Choose({ result, trial, verdict, about, reel }: Props) {
  const navigate = useNavigate()
  const [accepted, setAccepted] = useState<Accepted>()
  const [busy, setBusy] = useState(false)
  const [problem, setProblem] = useState('')
  const track = reel.tracks.find((t) => t.display === about.display)
  const rom = useROM(reel?.tracks)
  const pairs = (about.alignment ?? [])
    .map((p, i) => ({ p, i }))
    .filter(({ p }) => p.operation === 'wrong' && p.expected && p.seen)
  const distinct = pairs.filter(
    ({ p }, k) =>
      pairs.findIndex(({ p: q }) => q.expected!.text === p.expected!.text && q.seen!.text === p.seen!.text) === k,
  )

  async function go(f: () => Promise<void>) {
    setBusy(true)
    setProblem('')
    try {
      await f()
    } catch (e) {
      setProblem((e as Error).message)
    } finally {
      setBusy(false)
    }
  }
  const preview = (pair?: number) =>
    go(async () =>
      setAccepted(await post<Accepted>(`/submissions/${part(result.id)}/accept`, { trial, verdict, pair })),
    )
  const keep = () =>
    go(async () => {
      const x = await send<Exercise>('PUT', `/exercises/${part(result.exercise)}`, 'application/yaml', accepted!.text)
      await post<Proposal>(`${exerciseOf(result)}/proposals`, { revision: x.revision })
      navigate(`/classes/${result.class}/assignments/${result.exercise}/proposals`)
    })

  const told = (
    <p role="alert" className="min-h-6 whitespace-pre-wrap text-brick">
      {problem && `✗ ${problem}`}
    </p>
  )
  if (!accepted)
    return (
      <>
        <p>{about.expectation}</p>
        <ul className="py-2">
          {distinct.map(({ p, i }) => (
            <li key={i} className="flex flex-wrap items-center gap-4 border-t border-line py-2">
              <span className="text-sm text-slate">{seconds(p.seen!.from)}</span>
              {[p.seen!, p.expected!].map((span, k) => (
                <span key={k} className="flex items-center gap-2">
                  <span className="text-sm">{k ? 'expected' : 'saw'}</span>
                  {track && span.state ? (
                    <span className={`bg-well p-1 ${track.geometry.width > 250 ? 'w-48' : 'w-12'}`}>
                      <Display
                        geometry={track.geometry}
                        state={span.state}
                        custom={track.custom}
                        rom={rom}
                        label={span.text}
                      />
                    </span>
                  ) : (
                    <span className="font-mono text-sm">{span.text}</span>
                  )}
                </span>
              ))}
              <button type="button" className="quiet ml-auto" disabled={busy} onClick={() => preview(i)}>
                Preview
              </button>
            </li>
          ))}
          {sequences.includes(about.kind) && (
            <li className="flex items-center justify-between gap-4 border-t border-line py-2">
              the whole sequence it showed
              <button type="button" className="quiet" disabled={busy} onClick={() => preview()}>
                Preview
              </button>
            </li>
          )}
        </ul>
        {!distinct.length && !sequences.includes(about.kind) && (
          <p className="text-slate">There is nothing to accept: no frame replaces an expected one.</p>
        )}
        {told}
        <div className="flex justify-end">
          <Radix.Close className="quiet">Close</Radix.Close>
        </div>
      </>
    )
  return (
    <>
      <p className="pb-2">Accepts {accepted.what}.</p>
      {!!accepted.newer_revision && (
        <p className="pb-2 text-amber">
          ≈ Revision {accepted.newer_revision} was made for something else meanwhile. This one is made from revision{' '}
          {result.revision}, which is current here, and has none of its changes.
        </p>
      )}
      <pre
        className="max-h-64 overflow-auto border-y border-line py-2 font-mono text-sm whitespace-pre-wrap"
        tabIndex={0}
        aria-label="what changes in the file"
      >
        {accepted.was.split('\n').map((l, i) => (
          <span key={`w${i}`} className="block text-brick">
            − {l}
          </span>
        ))}
        {accepted.now.split('\n').map((l, i) => (
          <span key={`n${i}`} className="block text-moss">
            + {l}
          </span>
        ))}
      </pre>
      {accepted.moves.length ? (
        <Wide>
          <table className="book">
            <caption className="py-2 text-left">
              Marks that would change: {accepted.moves.length}; that stay: {accepted.same}
            </caption>
            <thead>
              <tr>
                <th>Student</th>
                <th className="number">Now</th>
                <th className="number">New</th>
                <th>Why</th>
              </tr>
            </thead>
            <tbody>
              {accepted.moves.map((m) => (
                <tr key={m.submission}>
                  <td className="whitespace-nowrap">{m.student}</td>
                  <td className="number">{m.old}</td>
                  <td className="number">{m.new}</td>
                  <td className="py-1 text-sm text-slate">{m.why.join('; ')}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      ) : (
        <p className="py-2 text-slate">Nobody’s mark would change, of {accepted.same} submissions that count.</p>
      )}
      {told}
      <div className="flex justify-end gap-2">
        <button type="button" className="quiet" onClick={() => setAccepted(undefined)}>
          Back
        </button>
        <Radix.Close className="quiet">Cancel</Radix.Close>
        <button type="button" className="plate" disabled={busy} onClick={keep}>
          Save and propose marks
        </button>
      </div>
    </>
  )
}
