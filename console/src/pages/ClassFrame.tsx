import { useQuery } from '@tanstack/react-query'
import { Outlet, useOutletContext, useParams } from 'react-router'
import { get, part } from '../api'
import type { Class } from '../types'
import { Problem, Waiting, Ways } from '../ui/Frame'

// useClass gives the class that a page is in.
export const useClass = () => useOutletContext<Class>()
export const marks = (c: Class) => c.role !== 'student'
export const answers = (c: Class) => c.role === 'instructor'

// ClassFrame is what stands above the pages of a class.
export function ClassFrame() {
  const { class: name = '' } = useParams()
  const { data, error } = useQuery({ queryKey: ['class', name], queryFn: () => get<Class>(`/classes/${part(name)}`) })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const at = `/classes/${name}`
  const pages: [string, string][] = [[at, 'Exercises']]
  if (marks(data))
    pages.push([`${at}/gradebook`, 'Gradebook'], [`${at}/members`, 'People'], [`${at}/libraries`, 'Libraries'])
  if (answers(data)) pages.push([`${at}/audit`, 'Audit'])
  return (
    <>
      <p className="pt-6 pb-2 text-slate">
        {data.title}
        {data.archived && ', archived'}
      </p>
      {pages.length > 1 && <Ways label="class" list={pages} inside={[at, `${at}/exercises/`]} />}
      <Outlet context={data} />
    </>
  )
}
