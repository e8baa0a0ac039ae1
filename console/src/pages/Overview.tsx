import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { get } from '../api'
import type { Statistics } from '../types'
import { Empty } from '../ui/fields'
import { Problem, Waiting } from '../ui/Frame'
import { useHere } from '../data/assignment'
import { Spread } from '../ui/Spread'
import { Table } from '../ui/Table'

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
        {data.submitted} of {data.students} students submitted; {data.right} got everything right. Mean {data.mean},
        median {data.median} of {+data.of}.
        {minutes.length > 0 &&
          ` Of the students who got everything right, half did so within ${span(minutes[Math.floor((minutes.length - 1) / 2)])} of the opening time.`}
      </p>
      <section aria-labelledby="spread">
        <h2 id="spread" className="pb-2 text-lg">
          Marks that count
        </h2>
        <Spread columns={spread} />
      </section>
      <section aria-labelledby="expectations" className="pt-6">
        <h2 id="expectations" className="pb-2 text-lg">
          Expectations, most often failed first
        </h2>
        <Table
          label="expectations"
          rows={worst}
          id={(e) => `${e.trial}: ${e.expectation}`}
          columns={[
            { id: 'trial', head: 'Trial', cell: (e) => e.trial, by: (e) => e.trial, style: 'text-slate' },
            {
              id: 'expectation',
              head: 'Expectation',
              cell: (e) => e.expectation,
              by: (e) => e.expectation,
              style: 'py-1',
            },
            { id: 'met', head: 'Met', number: true, cell: (e) => e.met, by: (e) => e.met },
            { id: 'partly', head: 'Partly', number: true, cell: (e) => e.partly, by: (e) => e.partly },
            { id: 'missed', head: 'Missed', number: true, cell: (e) => e.missed, by: (e) => e.missed },
          ]}
        />
      </section>
      {data.findings.length > 0 && (
        <section aria-labelledby="findings" className="pt-6">
          <h2 id="findings" className="pb-2 text-lg">
            Causes found
          </h2>
          <p className="pb-2 text-slate">Of {data.submitted} who submitted, in the attempts that count.</p>
          <ul>
            {data.findings.map((f) => (
              <li key={f.code} className="flex gap-4 border-t border-line py-1">
                <span className="w-8 text-right">{f.count}</span>
                <div>
                  <span className="inline-block first-letter:uppercase">{f.text}</span>{' '}
                  <span className="font-mono text-sm text-slate">{f.code}</span>
                  <details className="text-sm">
                    <summary className="cursor-pointer text-slate">
                      {f.count === 1 ? 'one sheet' : `${f.count} sheets`}
                    </summary>
                    <ul className="space-y-1 py-1">
                      {alike(f.sheets).map(([text, sheets]) => (
                        <li key={text}>
                          {text}{' '}
                          {sheets.map((s, i) => (
                            <span key={s.submission}>
                              {i > 0 && ', '}
                              <Link to={`/submissions/${s.submission}`}>{s.student}</Link>
                            </span>
                          ))}
                        </li>
                      ))}
                    </ul>
                  </details>
                </div>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  )
}

type FoundIn = Statistics['findings'][number]['sheets'][number]

// Sheets that tell a finding in the same words stand together, those of most sheets first.
function alike(sheets: FoundIn[]): [string, FoundIn[]][] {
  const by = new Map<string, FoundIn[]>()
  for (const s of sheets) by.set(s.text, [...(by.get(s.text) ?? []), s])
  return [...by].sort(([, a], [, b]) => b.length - a.length)
}

const span = (m: number) =>
  m < 120 ? `${m} minutes` : m < 2880 ? `${Math.round(m / 60)} hours` : `${Math.round(m / 1440)} days`
