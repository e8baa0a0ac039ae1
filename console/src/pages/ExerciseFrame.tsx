import { useQuery } from '@tanstack/react-query'
import { lazy } from 'react'
import { Outlet, useOutletContext, useParams } from 'react-router'
import { get, part } from '../api'
import { useChanges } from '../changes'
import type { Class, Opening } from '../types'
import { Problem, Waiting, Ways } from '../ui/Frame'
import { answers, marks, useClass } from './ClassFrame'

const StudentExercise = lazy(() => import('./StudentExercise'))

export interface Here {
  class: Class
  opening: Opening
  at: string // its address in the API
  page: string // its address in the console
}

export const useHere = () => useOutletContext<Here>()

// ExerciseFrame is what stands above the pages of an exercise that is open to a class. A student has one page of it.
export function ExerciseFrame() {
  const here = useClass()
  const { exercise = '' } = useParams()
  const at = `/classes/${part(here.name)}/exercises/${part(exercise)}`
  const { data, error, refetch } = useQuery({
    queryKey: ['opening', here.name, exercise],
    queryFn: () => get<Opening>(at),
  })
  useChanges(here.name, (s) => {
    if (!s || s.exercise === exercise) refetch()
  })
  if (error) return <Problem error={error} />
  if (!data) return <Waiting />
  const page = `/classes/${here.name}/exercises/${exercise}`
  const context: Here = { class: here, opening: data, at, page }
  if (!marks(here)) return <StudentExercise {...context} />
  const pages: [string, string][] = [
    [page, 'Submissions'],
    [`${page}/alike`, 'Contact sheet'],
    [`${page}/overview`, 'Overview'],
    [`${page}/proposals`, 'Proposed marks'],
    [`${page}/routines`, 'Shared routines'],
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
