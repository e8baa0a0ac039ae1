import * as Radix from '@radix-ui/react-dialog'
import { type FormEvent, type ReactNode, useState } from 'react'
import { useLocation } from 'react-router'
import { useDraft } from '../draft'

interface Props {
  trigger: ReactNode
  title: string
  help?: string
  action: string
  wide?: boolean
  open?: boolean // from the beginning on: a link led to it
  closed?: () => void
  about?: string // what it is about, where a page has several of the same title
  children: ReactNode
  // done gets the form's fields; what it throws is told, and the dialog stays, as it does where it gives false.
  done: (fields: FormData) => Promise<unknown>
}

// Ask is a dialog with one form and one action.
// What is written into it and not sent is there again when it is opened again.
export function Ask({ trigger, title, help, action, wide, about, open: led, closed, children, done }: Props) {
  const { form, restored, drop } = useDraft(`${useLocation().pathname}|${title}|${about ?? ''}`)
  const [opened, setOpen] = useState(false)
  const open = opened || !!led
  const [problem, setProblem] = useState('')
  const [busy, setBusy] = useState(false)

  async function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    const fields = new FormData(event.currentTarget)
    setBusy(true)
    setProblem('')
    try {
      if ((await done(fields)) !== false) {
        drop()
        setOpen(false)
        closed?.()
      }
    } catch (e) {
      setProblem((e as Error).message)
    } finally {
      setBusy(false)
    }
  }

  return (
    <Radix.Root open={open} onOpenChange={(o) => (setOpen(o), setProblem(''), o || closed?.())}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Radix.Content
          aria-describedby={help ? undefined : ''}
          className={`fixed top-[8vh] left-1/2 z-30 max-h-[84vh] ${wide ? 'w-[640px]' : 'w-[420px]'} max-w-[94vw] -translate-x-1/2 overflow-auto border-2 border-ink bg-paper p-6`}
        >
          <Radix.Title className="text-lg">{title}</Radix.Title>
          {help && <Radix.Description className="pb-4 text-sm text-slate">{help}</Radix.Description>}
          <form ref={form} onSubmit={submit} className="flex flex-col gap-4 pt-2">
            {children}
            {restored && (
              <p role="status" className="text-sm text-amber">
                ≈ This is what you had written before.
              </p>
            )}
            <p role="alert" className="min-h-6 text-brick">
              {problem && `✗ ${problem}`}
            </p>
            <div className="flex justify-end gap-2">
              <Radix.Close className="quiet">Cancel</Radix.Close>
              <button type="submit" className="plate" disabled={busy}>
                {action}
              </button>
            </div>
          </form>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
