import { useQuery } from '@tanstack/react-query'
import { lazy } from 'react'
import { Outlet, useOutletContext, useParams } from 'react-router'
import { get, part } from '../api'
import { useChanges } from '../changes'
import type { Class, Assignment } from '../types'
import { Problem, Waiting, Ways } from '../ui/Frame'
import { answers, marks, useClass } from './ClassFrame'

const StudentExercise = lazy(() => import('./StudentExercise'))

export interface Here {
  class: Class
  assignment: Assignment
  at: string // its address in the API
  page: string // its address in the console
}

export const useHere = () => useOutletContext<Here>()

// ExerciseFrame is what stands above the pages of an exercise that is open to a class. A student has one page of it.
export function ExerciseFrame() {
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
  if (!marks(here)) return <StudentExercise {...context} />
  const pages: [string, string][] = [
    [page, 'Submissions'],
    [`${page}/look-alikes`, 'Contact sheet'],
    [`${page}/overview`, 'Overview'],
    [`${page}/proposals`, 'Proposed marks'],
    [`${page}/similar-code`, 'Shared routines'],
  ]
  if (answers(here)) pages.push([`${page}/terms`, 'Terms'])
  return (
    <>
      <h1 className="pt-6 pb-2 text-xl">{data.title}</h1>
      <Ways label="exercise" list={pages} />
      <Outlet context={context} />
    </>
  )
}
