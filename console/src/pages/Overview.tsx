import { useQuery } from '@tanstack/react-query'
import { get } from '../api'
import type { Statistics } from '../types'
import { Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { useHere } from './ExerciseFrame'
import { Spread } from '../ui/Spread'
import { Wide } from '../ui/Wide'

// How the class did: marks, which expectation fails most, which causes were found, how long the first right attempt took.
export default function Overview() {
  const { at } = useHere()
  const { data, error } = useQuery({ queryKey: ['statistics', at], queryFn: () => get<Statistics>(`${at}/statistics`) })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  if (!data.submitted) return <Empty>Nothing that counts is marked yet.</Empty>
  const spread = data.spread.map((n, i) => ({ name: i === 10 ? 'full' : `${i * 10} %`, count: n }))
  const worst = [...data.expectations].sort((a, b) => b.missed * 2 + b.partly - (a.missed * 2 + a.partly))
  const minutes = data.first_right
  return (
    <>
      <p className="py-4">
        {data.submitted} of {data.students} students handed in; {data.right} got everything right. Mean {data.mean},
        median {data.median} of {+data.of}.
        {minutes.length > 0 &&
          ` Half of those who got there had their first right attempt within ${span(minutes[Math.floor((minutes.length - 1) / 2)])} of the assignment.`}
      </p>
      <section aria-labelledby="spread">
        <h2 id="spread" className="pb-2 text-lg">
          Marks that count
        </h2>
        <Spread columns={spread} />
      </section>
      <section aria-labelledby="expectations" className="pt-6">
        <h2 id="expectations" className="pb-2 text-lg">
          Expectations, the most often failed first
        </h2>
        <Wide>
          <table className="book">
            <thead>
              <tr>
                <th>Trial</th>
                <th>Expectation</th>
                <th className="number">Met</th>
                <th className="number">Partly</th>
                <th className="number">Missed</th>
              </tr>
            </thead>
            <tbody>
              {worst.map((e, i) => (
                <tr key={i}>
                  <td className="text-slate">{e.trial}</td>
                  <td className="py-1">{e.expectation}</td>
                  <td className={`number ${e.met ? 'text-moss' : 'text-slate'}`}>{e.met}</td>
                  <td className={`number ${e.partly ? 'text-amber' : 'text-slate'}`}>{e.partly}</td>
                  <td className={`number ${e.missed ? 'text-brick' : 'text-slate'}`}>{e.missed}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      </section>
      {data.findings.length > 0 && (
        <section aria-labelledby="findings" className="pt-6">
          <h2 id="findings" className="pb-2 text-lg">
            What was found
          </h2>
          <ul>
            {data.findings.map((f) => (
              <li key={f.code} className="flex gap-4 border-t border-line py-1">
                <span className="w-8 text-right">{f.count}</span>
                <span>
                  {f.text} <span className="font-mono text-sm text-slate">{f.code}</span>
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  )
}

const span = (m: number) =>
  m < 120 ? `${m} minutes` : m < 2880 ? `${Math.round(m / 60)} hours` : `${Math.round(m / 1440)} days`
