import { useQuery } from '@tanstack/react-query'
import { lazy } from 'react'
import { Outlet, useParams } from 'react-router'
import { get, part } from '../api'
import { useChanges } from '../changes'
import type { Here } from '../data/assignment'
import { answers, marks, useClass } from '../data/class'
import type { Assignment } from '../types'
import { Problem, Waiting, Ways } from '../ui/Frame'

const StudentAssignment = lazy(() => import('./StudentAssignment'))

// AssignmentFrame is what stands above the pages of an assignment. A student has one page of it.
export function AssignmentFrame() {
  const here = useClass()
  const { exercise = '' } = useParams()
  const at = `/classes/${part(here.name)}/assignments/${part(exercise)}`
  const { data, error, refetch } = useQuery({
    queryKey: ['assignment', here.name, exercise],
    queryFn: () => get<Assignment>(at),
  })
  useChanges(here.name, (s) => {
    if (!s || s.exercise === exercise) refetch()
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const page = `/classes/${here.name}/assignments/${exercise}`
  const context: Here = { class: here, assignment: data, at, page }
  if (!marks(here)) return <StudentAssignment {...context} />
  const pages: [string, string][] = [
    [page, 'Submissions'],
    [`${page}/look-alikes`, 'Contact sheet'],
    [`${page}/overview`, 'Overview'],
    [`${page}/proposals`, 'Proposed marks'],
    [`${page}/similar-code`, 'Similar code'],
  ]
  if (answers(here)) pages.push([`${page}/policy`, 'Policy'])
  return (
    <>
      <h1 className="pt-6 pb-2 text-xl">{data.title}</h1>
      <Ways label="exercise" list={pages} />
      <Outlet context={context} />
    </>
  )
}
