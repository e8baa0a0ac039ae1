import { part, remove } from '../api'
import { when } from '../time'
import { Act } from '../ui/Act'
import { CommentAll, OverrideAll } from '../ui/MarkMany'
import { type About, exerciseOf } from './about'

// Said is what people said of a submission and did to its marks.
export function Said({ result, staff, again }: About) {
  const at = exerciseOf(result)
  return (
    <section aria-labelledby="said" className="border-t-2 border-ink py-4">
      <div className="flex flex-wrap items-baseline justify-between gap-x-6">
        <h2 id="said" className="text-lg">
          {staff ? 'Comments and changed marks' : 'Comments'}
        </h2>
        {staff && (
          <span>
            <CommentAll at={at} className={result.class} submissions={[result.id]} done={again} />
            {result.state === 'marked' && (
              <OverrideAll at={at} className={result.class} submissions={[result.id]} done={again} />
            )}
          </span>
        )}
      </div>
      <ul>
        {result.comments?.map((c) => (
          <li key={c.id} className="flex justify-between gap-4 border-t border-line py-2">
            <span className="whitespace-pre-line">
              {c.text}{' '}
              <span className="text-sm text-slate">
                {c.by}, {when(c.created)}
              </span>
            </span>
            {staff && (
              <Act
                label="Delete this comment"
                act={() => remove(`/submissions/${part(result.id)}/comments/${c.id}`).then(again)}
              >
                Delete
              </Act>
            )}
          </li>
        ))}
        {result.overrides?.map((o) => (
          <li key={o.id} className="flex justify-between gap-4 border-t border-line py-2">
            <span>
              {o.row !== undefined
                ? `row ${o.row + 1}`
                : o.trial !== undefined
                  ? `${result.sheet?.trials[o.trial]?.name ?? `trial ${o.trial + 1}`}, expectation ${(o.verdict ?? 0) + 1}`
                  : 'total'}
              : <strong>{o.marks}</strong>, {o.reason}{' '}
              <span className="text-sm text-slate">
                {o.by}, {when(o.created)}
              </span>
            </span>
            <Act
              label="Withdraw this change of marks"
              act={() => remove(`/submissions/${part(result.id)}/overrides/${o.id}`).then(again)}
            >
              Withdraw
            </Act>
          </li>
        ))}
      </ul>
    </section>
  )
}
