import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { get } from '../api'
import type { Class, Exercise } from '../types'

// Changes draws a unified diff.
export function Changes({ text }: { text: string }) {
  const lines = text.split('\n').filter((l) => l && !l.startsWith('---') && !l.startsWith('+++'))
  return (
    <pre
      className="my-2 max-h-64 overflow-auto border border-line p-2 font-mono text-sm"
      tabIndex={0}
      aria-label="changes"
    >
      {lines.map((l, i) => (
        <span
          key={i}
          className={`block ${l.startsWith('+') ? 'text-moss' : l.startsWith('-') ? 'text-brick' : 'text-slate'}`}
        >
          {l.startsWith('@@') ? '…' : l}
        </span>
      ))}
    </pre>
  )
}

// Saved returns what a revision changes, whom it concerns, and what comes next.
export function Saved({ exercise: x }: { exercise: Exercise }) {
  const classes = useQuery({ queryKey: ['classes'], queryFn: () => get<Class[]>('/classes') })
  const mine =
    classes.data?.filter(
      (c) => c.role === 'instructor' && !c.archived && !x.assigned?.some((o) => o.class === c.name),
    ) ?? []
  return (
    <section aria-label="saved" className="border-y border-line py-2 text-sm">
      {x.changes && (
        <details>
          <summary className="text-bottle">Changes from the previous revision</summary>
          <Changes text={x.changes} />
        </details>
      )}
      {x.assigned?.map((o) => (
        <p key={o.class}>
          {o.title} still uses revision {o.revision}:{' '}
          <Link to={`/classes/${o.class}/assignments/${x.name}/proposals`}>
            mark again, apply, and make revision {x.revision} current
          </Link>
          .
        </p>
      ))}
      {(x.classes ?? 0) > (x.assigned?.length ?? 0) && (
        <p className="text-slate">
          It is assigned to {x.classes - (x.assigned?.length ?? 0)} other classes, which keep their revision.
        </p>
      )}
      {mine.map((c) => (
        <p key={c.name}>
          <Link to={`/classes/${c.name}?assign=${x.name}`}>Assign to {c.title}</Link>
        </p>
      ))}
    </section>
  )
}
