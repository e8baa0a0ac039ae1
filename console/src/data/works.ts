import type { Work } from '../types'

// The kinds of work, and how they are called.
export const kinds: [string, string][] = [
  ['firmware', 'firmware'],
  ['source', 'source'],
  ['capture', 'captures of a logic analyser'],
]

// endings are those of the files of some kinds of work, all in a row.
export const endings = (works: Work[] = [], of = kinds.map((k) => k[0])) =>
  works
    .filter((w) => of.includes(w.kind))
    .flatMap((w) => w.endings)
    .join(', ')

// isOf tells whether a file is of a kind of work, by its name.
export const isOf = (works: Work[] = [], kind: string, name: string) =>
  works.some((w) => w.kind === kind && w.endings.some((e) => name.toLowerCase().endsWith(e)))
