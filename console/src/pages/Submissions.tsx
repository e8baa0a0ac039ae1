import * as Dialog from '@radix-ui/react-dialog'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { Link, useParams } from 'react-router'
import { form, get, part } from '../api'
import { useChanges } from '../changes'
import type { Opening, Page, Receipt, Submission } from '../types'
import { Problem } from '../ui/Frame'
import { Tally } from '../ui/marks'

const states: Record<string, string> = { queued: 'waiting', running: 'being marked', marked: 'marked', failed: 'set aside', cancelled: 'cancelled' }

export function Submissions() {
  const { class: name = '', exercise: which = '' } = useParams()
  const at = `/classes/${part(name)}/exercises/${part(which)}`
  const queries = useQueryClient()
  const exercise = useQuery({ queryKey: ['opening', name, which], queryFn: () => get<Opening>(at) })
  const key = ['submissions', name, which]
  const list = useQuery({ queryKey: key, queryFn: () => everything(at) })
  useChanges(name, (changed) => {
    if (changed && changed.exercise !== which) return
    const known = queries.getQueryData<Submission[]>(key)
    if (changed && known?.some((s) => s.id === changed.id)) {
      queries.setQueryData(key, known.map((s) => (s.id === changed.id ? { ...changed, counts: s.counts } : s)))
    } else {
      list.refetch()
    }
  })
  const error = exercise.error ?? list.error
  if (error) return <Problem error={error} />
  if (!exercise.data || !list.data) return null
  const open = list.data.filter((s) => s.state === 'queued' || s.state === 'running').length
  return (
    <>
      <div className="flex items-end justify-between pt-8 pb-4">
        <h1 className="text-xl">{exercise.data.title}</h1>
        <span className="flex items-center gap-4 text-slate">
          <span aria-live="polite">{open ? `${open} of ${list.data.length} still to mark` : `all ${list.data.length} marked`}</span>
          <HandIn at={at} student={!!exercise.data.mine} />
        </span>
      </div>
      <table className="book">
        <thead>
          <tr>
            <th className="w-6" />
            <th>Student</th>
            <th>File</th>
            <th className="number">Attempt</th>
            <th className="number">Marks</th>
            <th>Verdicts</th>
            <th>First difference</th>
          </tr>
        </thead>
        <tbody>
          {list.data.map((s) => (
            <Row key={s.id} s={s} />
          ))}
        </tbody>
      </table>
    </>
  )
}

// everything reads all pages of the list.
async function everything(at: string): Promise<Submission[]> {
  const all: Submission[] = []
  for (let after = ''; ; ) {
    const page = await get<Page<Submission>>(`${at}/submissions?limit=1000${after && `&after=${after}`}`)
    all.push(...page.items)
    if (!page.next) return all
    after = page.next
  }
}

function Row({ s }: { s: Submission }) {
  const done = s.state === 'marked'
  const [sign, colour] = !done
    ? ['·', 'text-slate']
    : s.met > 0 && !s.partly && !s.missed
      ? ['✓', 'text-moss']
      : Number(s.marks) === 0
        ? ['✗', 'text-brick']
        : ['≈', 'text-amber']
  return (
    <tr data-state={s.state}>
      <td className={colour}>{sign}</td>
      <td className="whitespace-nowrap">
        <Link to={`/submissions/${s.id}`}>{s.student}</Link>
      </td>
      <td className="font-mono text-sm text-slate">{s.file}</td>
      <td className="number">{s.attempt}</td>
      <td className="number">{done ? `${s.marks} / ${s.of}` : states[s.state]}</td>
      <td>{done && s.met + s.partly + s.missed > 0 && <Tally {...s} />}</td>
      <td className="max-w-[360px] truncate text-sm" title={s.first || s.error}>
        {s.first || s.error}
      </td>
    </tr>
  )
}

function HandIn({ at, student }: { at: string; student: boolean }) {
  const [open, setOpen] = useState(false)
  const [problem, setProblem] = useState('')

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const fields = new FormData(event.currentTarget)
    try {
      await form<Receipt>(`${at}/submissions`, { student: String(fields.get('student') ?? '') }, [['file', fields.get('file') as File]])
      setOpen(false)
    } catch (e) {
      setProblem((e as Error).message)
    }
  }

  return (
    <Dialog.Root open={open} onOpenChange={(o) => (setOpen(o), setProblem(''))}>
      <Dialog.Trigger className="plate">Hand in</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-black/40" />
        <Dialog.Content className="fixed top-24 left-1/2 w-[400px] -translate-x-1/2 border-2 border-ink bg-paper p-6">
          <Dialog.Title className="text-lg">Hand in a firmware</Dialog.Title>
          <Dialog.Description className="pb-4 text-sm text-slate">Intel HEX or ELF, or source: one file, or a zip archive of several. An ELF with debug information, and source, let the result name source lines.</Dialog.Description>
          <form onSubmit={submit} className="flex flex-col gap-4">
            {!student && (
              <label>
                <span className="text-sm text-slate">Student’s login</span>
                <input name="student" className="field" required maxLength={64} />
              </label>
            )}
            <label>
              <span className="text-sm text-slate">File</span>
              <input name="file" type="file" accept=".hex,.elf,.ihex,.c,.cpp,.ino,.zip" className="field" required />
            </label>
            <p role="alert" className="min-h-6 text-brick">
              {problem && `✗ ${problem}`}
            </p>
            <div className="flex justify-end gap-2">
              <Dialog.Close className="quiet">Cancel</Dialog.Close>
              <button type="submit" className="plate">
                Hand in
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
