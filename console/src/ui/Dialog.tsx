import * as Radix from '@radix-ui/react-dialog'
import { useMutation } from '@tanstack/react-query'
import { type FormEvent, type ReactNode, useState } from 'react'
import { useLocation } from 'react-router'
import { useDraft } from '../draft'

interface Frame {
  trigger?: ReactNode
  title: string
  help?: string
  size?: 'usual' | 'wide' | 'page'
  open: boolean
  onOpenChange: (open: boolean) => void
  children: ReactNode
}

const widths = { usual: 'w-[420px]', wide: 'w-[640px]', page: 'w-[900px]' }

// Dialog is the frame of every dialog: the keyboard stays inside, Escape closes it, the page behind it is out of reach.
export function Dialog({ trigger, title, help, size = 'usual', open, onOpenChange, children }: Frame) {
  return (
    <Radix.Root open={open} onOpenChange={onOpenChange}>
      {trigger && <Radix.Trigger asChild>{trigger}</Radix.Trigger>}
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-20 bg-black/40" />
        <Radix.Content
          aria-describedby={help ? undefined : ''}
          className={`fixed top-[6vh] left-1/2 z-30 max-h-[88vh] ${widths[size]} max-w-[96vw] -translate-x-1/2 overflow-auto border-2 border-ink bg-paper p-4 sm:p-6`}
        >
          <Radix.Title className="text-lg">{title}</Radix.Title>
          {help && <Radix.Description className="pb-4 text-sm text-slate">{help}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}

interface Props {
  trigger: ReactNode
  title: string
  help?: string
  action: string
  wide?: boolean
  open?: boolean // from the beginning on: a link led to it
  closed?: () => void
  about?: string // what it is about, where a page has several of the same title
  children?: ReactNode
  // done gets the form's fields; what it throws is told, and the dialog stays, as it does where it gives false.
  done: (fields: FormData) => Promise<unknown>
}

// Ask is a dialog with one form and one action.
// What is written into it and not sent is there again when it is opened again.
export function Ask({ trigger, title, help, action, wide, about, open: led, closed, children, done }: Props) {
  const { form, restored, drop } = useDraft(`${useLocation().pathname}|${title}|${about ?? ''}`)
  const [opened, setOpen] = useState(false)
  const sending = useMutation({
    mutationFn: done,
    onSuccess: (kept) => {
      if (kept === false) return
      drop()
      setOpen(false)
      closed?.()
    },
  })
  const turn = (open: boolean) => {
    setOpen(open)
    sending.reset()
    if (!open) closed?.()
  }
  function submit(event: FormEvent<HTMLFormElement>) {
    event.preventDefault()
    if (!sending.isPending) sending.mutate(new FormData(event.currentTarget))
  }
  return (
    <Dialog
      trigger={trigger}
      title={title}
      help={help}
      size={wide ? 'wide' : 'usual'}
      open={opened || !!led}
      onOpenChange={turn}
    >
      <form ref={form} onSubmit={submit} className="flex flex-col gap-4 pt-2">
        {children}
        {restored && (
          <p role="status" className="text-sm text-amber">
            ≈ This is your unsent draft.
          </p>
        )}
        <p role="alert" className="min-h-6 whitespace-pre-line text-brick">
          {sending.error && `✗ ${sending.error.message}`}
        </p>
        <div className="flex justify-end gap-2">
          <Radix.Close className="quiet">Cancel</Radix.Close>
          <button type="submit" className="plate" aria-busy={sending.isPending} aria-disabled={sending.isPending}>
            {action}
            {sending.isPending && '…'}
          </button>
        </div>
      </form>
    </Dialog>
  )
}
