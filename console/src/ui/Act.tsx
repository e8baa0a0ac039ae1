import { useMutation } from '@tanstack/react-query'
import { type ReactNode, useState } from 'react'

interface Props {
  children: ReactNode
  act: () => Promise<unknown>
  done?: string // what is said when it is done, where nothing on the page shows it
  why?: string // why it cannot be done now
  label?: string // for those who do not see what it is beside
  plate?: boolean // the main action of its place
}

// Act is a button for one action. It always answers: that it is under way, that it is done, that it was refused and why, or
// why it cannot be done now.
export function Act({ children, act, done, why, label, plate }: Props) {
  const action = useMutation({ mutationFn: act })
  const [asked, setAsked] = useState(false)
  return (
    <span className="inline-flex flex-wrap items-center gap-x-2">
      <button
        type="button"
        className={plate ? 'plate' : 'quiet'}
        aria-label={label}
        aria-disabled={!!why || action.isPending}
        aria-busy={action.isPending}
        title={why}
        onClick={() => {
          if (why) setAsked(true)
          else if (!action.isPending) action.mutate()
        }}
      >
        {children}
        {action.isPending && '…'}
      </button>
      {why && asked && (
        <span role="status" className="text-sm text-amber">
          ≈ {why}
        </span>
      )}
      {action.error && (
        <span role="alert" className="text-left text-sm whitespace-normal text-brick">
          ✗ {action.error.message}
        </span>
      )}
      {action.isSuccess && done && (
        <span role="status" className="text-sm text-moss">
          ✓ {done}
        </span>
      )}
    </span>
  )
}
