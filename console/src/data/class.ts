import { useOutletContext } from 'react-router'
import type { Class } from '../types'

// useClass gives the class that a page is in.
export const useClass = () => useOutletContext<Class>()

// marks reports whether who looks marks the class, answers whether they answer for it.
export const marks = (c: Class) => c.role !== 'student'
export const answers = (c: Class) => c.role === 'instructor'
