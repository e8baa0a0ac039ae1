import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { get } from '../api'
import type { SimilarCode } from '../types'
import { Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { useHere } from '../data/assignment'

// SimilarCode lists code that several students' programs share. It ranks; it accuses nobody.
export function SimilarCode() {
  const { at } = useHere()
  const { data, error } = useQuery({
    queryKey: ['similar-code', at],
    queryFn: () => get<SimilarCode[]>(`${at}/similar-code`),
    staleTime: 60_000,
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  return (
    <>
      <p className="max-w-[76ch] py-4 text-slate">
        Sequences of at least 16 instructions, 10 cells of a design or 40 words of a script that several programs share
        and that are in neither a reference nor a library, least likely by chance first. Students who were shown the
        same thing in class share it too: this list says where to look and proves nothing.
      </p>
      {data.length === 0 && <Empty>No similar code beyond what everybody was given.</Empty>}
      <ol>
        {data.map((r, i) => (
          <li key={i} className="grid gap-x-6 border-t border-line py-2 sm:grid-cols-[200px_1fr]">
            <span>
              {r.instructions} {r.of}, {r.students} students
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
