import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import { get } from '../api'
import { Strip, useROM } from '../bench/Strip'
import type { Alike, Reel, Statistics, Submission, Track } from '../types'
import { Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { CommentAll, OverrideAll } from '../ui/MarkMany'
import { Tally, sign } from '../ui/marks'
import { useHere } from '../data/assignment'
import { useSubmissions } from '../data/submissions'

// The contact sheet: one film strip for each student, look-alikes together under what they have in common. What is said or
// decided there is said of all of them at once.
export function ContactSheet() {
  const here = useHere()
  const queries = useQueryClient()
  const list = useSubmissions(here.class.name, here.assignment.exercise, here.at)
  const groups = useQuery({
    queryKey: ['alike', here.at, list.dataUpdatedAt],
    queryFn: () => get<Alike[]>(`${here.at}/look-alikes`),
  })
  const statistics = useQuery({
    queryKey: ['statistics', here.at],
    queryFn: () => get<Statistics>(`${here.at}/statistics`),
  })
  const trials = [...new Set(statistics.data?.expectations.map((e) => e.trial))]
  const [trial, setTrial] = useState(0)
  if (list.error || groups.error) return <Problem error={(list.error ?? groups.error)!} />
  if (!list.data || !groups.data) return <Waiting />
  const again = () =>
    queries.invalidateQueries({ queryKey: ['submissions', here.class.name, here.assignment.exercise] })
  const inGroups = new Set(groups.data.flatMap((g) => g.submissions.map((s) => s.id)))
  const right = list.data.filter((s) => s.counts && s.state === 'marked' && !inGroups.has(s.id))
  const all = groups.data
  if (!all.length && !right.length)
    return (
      <Empty>
        Nothing is marked yet. This page will show a film strip of each student’s displays, with look-alikes together.
      </Empty>
    )
  const section = (title: string, subs: Submission[], key: string) => (
    <section key={key} className="border-t-2 border-ink pt-2 pb-6" aria-label={title}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-6">
        <h2 className="max-w-[80ch] text-base">
          {title}{' '}
          <span className="text-slate">· {subs.length === 1 ? 'one student' : `${subs.length} look-alikes`}</span>
        </h2>
        <span>
          <CommentAll at={here.at} className={here.class.name} submissions={subs.map((s) => s.id)} done={again} />
          <OverrideAll
            at={here.at}
            className={here.class.name}
            submissions={subs.map((s) => s.id)}
            of={Number(subs[0]?.of)}
            done={again}
          />
        </span>
      </div>
      <ul>
        {subs.map((s) => (
          <Student key={s.id} s={s} trial={trial} />
        ))}
      </ul>
    </section>
  )
  return (
    <>
      <p className="flex items-center gap-4 py-4 text-slate">
        <label className="flex items-baseline gap-2">
          Trial
          <select className="field w-auto text-ink" value={trial} onChange={(e) => setTrial(Number(e.target.value))}>
            {trials.map((name, i) => (
              <option key={name} value={i}>
                {name}
              </option>
            ))}
          </select>
        </label>
        attempts that count
      </p>
      {all.map((g) => section(g.first || 'Other differences', g.submissions, g.key))}
      {right.length > 0 && section('Correct', right, 'right')}
    </>
  )
}

// useSeen reports whether an element has come into view, once.
function useSeen() {
  const ref = useRef<HTMLLIElement>(null)
  const [seen, setSeen] = useState(false)
  useEffect(() => {
    if (!ref.current || seen) return
    const observer = new IntersectionObserver((entries) => entries.some((e) => e.isIntersecting) && setSeen(true), {
      rootMargin: '300px',
    })
    observer.observe(ref.current)
    return () => observer.disconnect()
  }, [seen])
  return { ref, seen }
}

// Student is what one student's displays showed in a trial.
function Student({ s, trial }: { s: Submission; trial: number }) {
  const { ref, seen } = useSeen()
  const reel = useQuery({
    queryKey: ['reel', s.id, trial],
    staleTime: Infinity,
    enabled: seen,
    retry: false,
    queryFn: () => get<Reel>(`/submissions/${s.id}/reels/${trial}`),
  })
  const rom = useROM(reel.data?.tracks)
  const [mark, colour] = sign(s)
  const track = reel.data && busiest(reel.data)
  return (
    <li ref={ref} className="flex min-h-20 items-center gap-4 border-t border-line py-1">
      <span className="w-44 shrink-0">
        <span className={`${colour} pr-2`}>{mark}</span>
        <Link to={`/submissions/${s.id}?trial=${trial}`}>{s.student}</Link>
        <span className="block text-sm text-slate">
          {s.marks} / {s.of}
          {s.overridden ? ' *' : ''} <Tally {...s} />
        </span>
      </span>
      {reel.error ? (
        <span className="text-sm text-slate">no film of this trial</span>
      ) : (
        <Strip track={track} rom={rom} />
      )}
    </li>
  )
}

// The display that shows most: the one worth a strip.
const busiest = (r: Reel): Track | undefined =>
  r.tracks.reduce<Track | undefined>((best, t) => (!best || t.frames.length > best.frames.length ? t : best), undefined)
