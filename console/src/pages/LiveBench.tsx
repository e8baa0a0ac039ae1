import { useQuery } from '@tanstack/react-query'
import { Link, useLocation, useParams, useSearchParams } from 'react-router'
import { form, get, part, tagged } from '../api'
import { Demonstrate } from '../live/Demonstrate'
import { LiveBench } from '../live/LiveBench'
import { second } from '../time'
import type { Exercise, Firmware, Practice, SubmissionBench, Work } from '../types'
import { Problem, Waiting } from '../ui/Frame'
import { endings, isOf } from '../data/works'

// What a live bench can run: as it is, or when the service has built it.
const runs = ['firmware', 'source']

// A bench without a chip runs by itself.
const chipless = (text = '') => /^chip:\s*(\{[^}]*)?\bis: none\b/m.test(text)

// Scripts run in processes of their own, which a page has not.
const scripts = 'Programs for this board run on the service, not in a page: a result shows what they showed.'

// scripted tells whether all that can be run are scripts.
const scripted = (works: Work[] = []) => {
  const firmware = works.filter((w) => w.kind === 'firmware').flatMap((w) => w.endings)
  return firmware.length > 0 && firmware.every((e) => e === '.script')
}

const bytes = (data: string) => Uint8Array.from(atob(data), (c) => c.charCodeAt(0)).buffer

// ExerciseBench is the bench of an exercise, for those who write it: trials are made of what they do.
export function ExerciseBench() {
  const { name } = useParams()
  const fresh = useLocation().state?.begin === true // it has just been made, and is seen to run
  const { data, error } = useQuery({
    queryKey: ['exercise', name],
    refetchOnWindowFocus: false,
    queryFn: () => tagged<Exercise>(`/exercises/${part(name!)}`),
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const { body: exercise, tag } = data
  // those that need no building come first
  const ready = (name: string) => isOf(exercise.works, 'firmware', name)
  const references = (exercise.files?.filter((f) => ready(f) || isOf(exercise.works, 'source', f)) ?? []).sort(
    (a, b) => Number(ready(b)) - Number(ready(a)),
  )
  return (
    <LiveBench
      key={name}
      of={{
        title: exercise.title,
        intro: (
          <>
            {!scripted(exercise.works) &&
              'The bench runs in this page, with what you do to it. Nothing counts, and firmware stays here; source is built by the service. '}
            <Link to={`/exercises/${exercise.name}`}>Back to the exercise</Link>
          </>
        ),
        text: exercise.text ?? '',
        references: scripted(exercise.works) ? [] : references,
        chipless: chipless(exercise.text),
        accept: chipless(exercise.text) || scripted(exercise.works) ? undefined : endings(exercise.works),
        none: scripted(exercise.works) ? scripts : undefined,
        begin:
          fresh && references[0] && !scripted(exercise.works) ? { from: references[0], trial: 0, at: 0 } : undefined,
        programmed: async (from) => {
          if (from === '') return new ArrayBuffer(0)
          if (typeof from !== 'string' && ready(from.name)) return from.arrayBuffer()
          const values: Record<string, string> = { text: exercise.text ?? '' }
          if (typeof from === 'string') Object.assign(values, { exercise: exercise.name, reference: from })
          const { data } = await form<Firmware>('/build', values, typeof from === 'string' ? [] : [['file', from]])
          return bytes(data)
        },
        demonstrate: ({ from, trials, done, discard }) => (
          <Demonstrate
            key={`${done.length} ${done.done.length}`}
            exercise={exercise}
            tag={tag}
            from={from}
            trials={trials}
            shown={done}
            discard={discard}
          />
        ),
      }}
    />
  )
}

// PracticeBench is where work is tried before it is submitted.
export function PracticeBench() {
  const params = useParams()
  const at = `/classes/${part(params.class!)}/assignments/${part(params.exercise!)}`
  const { data, error } = useQuery({
    queryKey: ['practice', at],
    refetchOnWindowFocus: false,
    queryFn: () => get<Practice>(`${at}/practice`),
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const accept = scripted(data.works) ? '' : endings(data.works, runs)
  return (
    <LiveBench
      of={{
        title: data.title,
        intro: (
          <>
            {accept &&
              `Try your program before you submit it: no attempt is used, and firmware stays in this browser${
                data.works.some((w) => w.kind === 'source')
                  ? '; source is built by the service, which keeps nothing of it'
                  : ''
              }. `}
            <Link to={`/classes/${params.class}`}>Back to the assignments</Link>
          </>
        ),
        text: data.exercise,
        accept: chipless(data.exercise) ? undefined : accept || undefined,
        chipless: chipless(data.exercise),
        rewired: /student-wiring: (yes|true)/.test(data.exercise),
        none: scripted(data.works)
          ? scripts
          : accept
            ? undefined
            : 'This assignment takes captures. A live bench cannot run them: there is no program in them.',
        programmed: async (from) => {
          if (typeof from === 'string') return new ArrayBuffer(0)
          if (isOf(data.works, 'firmware', from.name)) return from.arrayBuffer()
          return bytes((await form<Firmware>(`${at}/build`, {}, [['file', from]])).data)
        },
        check: data.sheet
          ? {
              marks: data.marks,
              note: 'It marks the trials that you can see, in this page. Hidden trials, and the attempt that counts, are the service’s.',
            }
          : undefined,
      }}
    />
  )
}

// ContinuedBench is a submission, continued by hand from a moment of one of its trials.
export function ContinuedBench() {
  const { id = '' } = useParams()
  const [search] = useSearchParams()
  const { data, error } = useQuery({
    queryKey: ['bench', id],
    staleTime: Infinity,
    queryFn: () => get<SubmissionBench>(`/submissions/${part(id)}/bench`),
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const script = atob(data.data).startsWith('{"hemble-script"')
  const trial = Number(search.get('trial') ?? 0)
  const seconds = Number(search.get('at') ?? 0)
  return (
    <LiveBench
      of={{
        title: data.title,
        intro: (
          <>
            This is {data.file}, with its student’s values
            {seconds > 0
              ? `, continued by hand from ${seconds.toFixed(3)} s of its trial on: what the trial would do later is yours`
              : ''}
            . Nothing counts. <Link to={`/submissions/${id}`}>Back to the result</Link>
          </>
        ),
        text: data.exercise,
        wiring: data.wiring,
        none: script ? scripts : undefined,
        begin: script ? undefined : { from: data.file, trial, at: Math.max(0, Math.round((seconds * second) / 1000)) },
        programmed: async () => bytes(data.data),
      }}
    />
  )
}
