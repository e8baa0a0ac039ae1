import { useQuery } from '@tanstack/react-query'
import { createContext, memo, useContext, useEffect, useRef, useState } from 'react'
import { get, part } from '../api'
import type { Source, SourceFile } from '../types'

interface Shown {
  files: SourceFile[]
  at?: Source
  show: (s: Source) => void
}

const Context = createContext<Shown>({ files: [], show: () => {} })

// WithSource has the source that was submitted at hand, for lines to lead there.
export function WithSource({ id, children }: { id: string; children: React.ReactNode }) {
  const source = useQuery({
    queryKey: ['source', id],
    staleTime: Infinity,
    queryFn: () => get<SourceFile[]>(`/submissions/${part(id)}/source`),
  })
  const [at, show] = useState<Source>()
  return <Context value={{ files: source.data ?? [], at, show: (s) => show({ ...s }) }}>{children}</Context>
}

const find = (files: SourceFile[], file: string) =>
  files.find((f) => f.path === file || f.path.endsWith(`/${file}`) || file.endsWith(`/${f.path}`))

// SourceLine names a line; where its source was submitted, it leads there.
export function SourceLine({ source }: { source?: Source }) {
  const { files, show } = useContext(Context)
  if (!source) return null
  const text = `line ${source.line} ${source.file}`
  if (!find(files, source.file))
    return <span className="pl-4 font-mono text-sm whitespace-nowrap text-slate">{text}</span>
  return (
    <button
      type="button"
      className="quiet ml-2 font-mono text-sm whitespace-nowrap underline underline-offset-3"
      onClick={() => show(source)}
    >
      {text}
    </button>
  )
}

// SourceText is what was submitted, with the line that something points at. now is the one that is at work.
export const SourceText = memo(function SourceText({ now }: { now?: Source }) {
  const { files, at } = useContext(Context)
  const box = useRef<HTMLDetailsElement>(null)
  const [chosen, setChosen] = useState(0)
  const wanted = now ?? at
  const index = wanted ? files.indexOf(find(files, wanted.file)!) : -1
  const [followed, setFollowed] = useState<Source>()
  if (wanted !== followed && index >= 0) {
    setFollowed(wanted)
    setChosen(index)
  }
  useEffect(() => {
    if (index < 0) return
    if (at === wanted && box.current) box.current.open = true
    requestAnimationFrame(() => {
      const line = box.current?.querySelector<HTMLElement>('[aria-current=true]')
      const pane = line?.closest<HTMLElement>('[role=region]')
      if (line && pane) pane.scrollTop = line.offsetTop - pane.clientHeight / 2
      if (at === wanted) box.current?.scrollIntoView({ block: 'nearest' })
    })
  }, [wanted, at, index])
  if (!files.length) return null
  const file = files[Math.min(chosen, files.length - 1)]
  const line = wanted && find(files, wanted.file) === file ? wanted.line : 0
  return (
    <details ref={box} className="border-t border-line py-2">
      <summary className="text-bottle">source</summary>
      {files.length > 1 && (
        <select
          className="field my-2 w-auto"
          aria-label="file"
          value={chosen}
          onChange={(e) => setChosen(Number(e.target.value))}
        >
          {files.map((f, i) => (
            <option key={f.path} value={i}>
              {f.path}
            </option>
          ))}
        </select>
      )}
      <div
        className="relative max-h-96 overflow-auto border-y border-line"
        tabIndex={0}
        role="region"
        aria-label={file.path}
      >
        <ol className="font-mono text-sm">
          {file.text.split('\n').map((text, i) => (
            <li
              key={i}
              aria-current={i + 1 === line || undefined}
              className={`flex ${i + 1 === line ? 'bg-bottle/15 outline-1 outline-bottle' : ''}`}
            >
              <span className="w-12 shrink-0 pr-3 text-right text-slate select-none">{i + 1}</span>
              <span className="whitespace-pre">{text || ' '}</span>
            </li>
          ))}
        </ol>
      </div>
    </details>
  )
})
