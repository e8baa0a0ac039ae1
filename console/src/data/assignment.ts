import { useOutletContext } from 'react-router'
import type { Assignment, Class } from '../types'

export interface Here {
  class: Class
  assignment: Assignment
  at: string // its address in the API
  page: string // its address in the console
}

// useHere gives the assignment that a page is in.
export const useHere = () => useOutletContext<Here>()
