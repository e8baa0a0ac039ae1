import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { get } from '../api'
import type { SimilarCode } from '../types'
import { Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { useHere } from './ExerciseFrame'

// Routines that several students' programs share. It ranks; it accuses nobody.
export function Routines() {
  const { at } = useHere()
  const { data, error } = useQuery({
    queryKey: ['routines', at],
    queryFn: () => get<SimilarCode[]>(`${at}/similar-code`),
    staleTime: 60_000,
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <p className="max-w-[76ch] py-4 text-slate">
        Runs of at least 16 instructions that several programs have in common, and neither a reference nor a library
        has, the least likely by chance first. Classmates who were shown the same thing at the board share it, too: it
        says where to look, not what to think.
      </p>
      {data.length === 0 && <Empty>Nothing is shared beyond what was given to all.</Empty>}
      <ol>
        {data.map((r, i) => (
          <li key={i} className="grid gap-x-6 border-t border-line py-2 sm:grid-cols-[200px_1fr]">
            <span>
              {r.instructions} instructions, {r.students} students
              <span className="block text-sm text-slate">rank {Math.round(r.rank)}</span>
            </span>
            <span>
              {r.in.map((s) => (
                <span key={s.submission} className="mr-6 inline-block whitespace-nowrap">
                  <Link to={`/submissions/${s.submission}`}>{s.student}</Link>{' '}
                  <span className="font-mono text-sm text-slate">
                    {s.source || s.address}
                    {s.function ? ` ${s.function}()` : ''}
                  </span>
                </span>
              ))}
            </span>
          </li>
        ))}
      </ol>
    </>
  )
}
