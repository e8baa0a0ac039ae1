import { useQuery } from '@tanstack/react-query'
import { useParams } from 'react-router'
import { get, part } from '../api'
import type { Member } from '../types'

// useMembers gives who is in the class that a page is in.
export function useMembers() {
  const { class: name = '' } = useParams()
  return useQuery({ queryKey: ['members', name], queryFn: () => get<Member[]>(`/classes/${part(name)}/members`) })
}

// useStudents gives its students.
export const useStudents = () => useMembers().data?.filter((m) => m.role === 'student') ?? []
