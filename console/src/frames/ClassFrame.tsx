import { useQuery } from '@tanstack/react-query'
import { Outlet, useParams } from 'react-router'
import { get, part } from '../api'
import { answers, marks } from '../data/class'
import type { Class } from '../types'
import { Problem, Waiting, Ways } from '../ui/Frame'

// ClassFrame is what stands above the pages of a class.
export function ClassFrame() {
  const { class: name = '' } = useParams()
  const { data, error } = useQuery({ queryKey: ['class', name], queryFn: () => get<Class>(`/classes/${part(name)}`) })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const at = `/classes/${name}`
  const pages: [string, string][] = [[at, 'Assignments']]
  if (marks(data))
    pages.push([`${at}/gradebook`, 'Gradebook'], [`${at}/members`, 'Members'], [`${at}/libraries`, 'Libraries'])
  if (answers(data)) pages.push([`${at}/audit`, 'Audit log'])
  return (
    <>
      <p className="pt-6 pb-2 text-slate">
        {data.title}
        {data.archived && ', archived'}
      </p>
      {pages.length > 1 && <Ways label="class" list={pages} inside={[at, `${at}/assignments/`]} />}
      <Outlet context={data} />
    </>
  )
}
