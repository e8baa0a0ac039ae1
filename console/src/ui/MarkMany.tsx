import { useQuery } from '@tanstack/react-query'
import { get, part, post } from '../api'
import type { SavedComment } from '../types'
import { Ask } from './Dialog'
import { Area, Field } from './fields'

interface Props {
  at: string // the exercise's address in the API
  className: string
  submissions: string[]
  done: () => void
}

// CommentAll says the same of several submissions; the class's bank of comments is at hand.
export function CommentAll({ at, className, submissions, done }: Props) {
  return (
    <Ask
      trigger={
        <button type="button" className="quiet">
          Comment {submissions.length > 1 ? `all ${submissions.length}` : ''}
        </button>
      }
      title={submissions.length > 1 ? `A comment for ${submissions.length} submissions` : 'A comment'}
      action="Send"
      about={submissions.join(' ')}
      done={(f) =>
        post(`${at}/comments`, { submissions, text: f.get('text'), save: f.get('save') === 'on' }).then(done)
      }
    >
      <CommentFields className={className} />
    </Ask>
  )
}

export function CommentFields({ className }: { className: string }) {
  const bank = useQuery({
    queryKey: ['saved-comments', className],
    queryFn: () => get<SavedComment[]>(`/classes/${part(className)}/saved-comments`),
  })
  return (
    <>
      <Area label="Comment" name="text" required />
      {!!bank.data?.length && (
        <ul className="max-h-32 overflow-auto text-sm">
          {bank.data.map((p) => (
            <li key={p.id}>
              <button
                type="button"
                className="quiet w-full truncate text-left"
                title={p.text}
                onClick={(e) => {
                  const field = e.currentTarget.form?.elements.namedItem('text') as HTMLTextAreaElement
                  field.value = p.text
                }}
              >
                {p.text}
              </button>
            </li>
          ))}
        </ul>
      )}
      <label className="flex items-center gap-2 text-sm">
        <input type="checkbox" name="save" /> save it for the class
      </label>
    </>
  )
}

// OverrideAll gives several submissions the same marks, for the whole or for one expectation.
export function OverrideAll({
  at,
  submissions,
  done,
  of,
  what,
  where,
}: Props & { of?: number; what?: string; where?: { trial: number; verdict: number } | { row: number } }) {
  return (
    <Ask
      trigger={
        <button type="button" className="quiet">
          {what ? 'Change' : `Change marks${submissions.length > 1 ? ` of all ${submissions.length}` : ''}`}
        </button>
      }
      title={what ?? (submissions.length > 1 ? `Total marks of ${submissions.length} submissions` : 'Total marks')}
      help="Your name and the reason appear on the mark sheet."
      action="Change"
      about={submissions.join(' ')}
      done={(f) =>
        post(`${at}/overrides`, { submissions, marks: Number(f.get('marks')), reason: f.get('reason'), ...where }).then(
          done,
        )
      }
    >
      <Field
        label={`Marks${of !== undefined ? `, 0 to ${of}` : ''}`}
        name="marks"
        type="number"
        step="any"
        min={0}
        max={of}
        required
        autoFocus
      />
      <Field label="Reason" name="reason" required maxLength={500} />
    </Ask>
  )
}
