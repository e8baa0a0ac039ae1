import type { Result } from '../types'
import { part } from '../api'

// About is what the parts of the page need of the submission that it is about.
export interface About {
  result: Result
  staff: boolean // the viewer marks the class
  answers: boolean // and answers for it
  again: () => void
}

// exerciseOf is the address of its exercise in the API.
export const exerciseOf = (r: Result) => `/classes/${part(r.class)}/assignments/${part(r.exercise)}`
