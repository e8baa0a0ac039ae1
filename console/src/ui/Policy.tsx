import type { Assignment } from '../types'
import { Choice, Field, fromInput, toInput } from './fields'
import { kinds } from '../data/works'

// The policy of an assignment as fields of a form, and back.
export function PolicyFields({ o }: { o?: Assignment }) {
  return (
    <>
      <div className="grid gap-4 sm:grid-cols-3">
        <Field label="Opens (empty: now)" name="opens" type="datetime-local" defaultValue={toInput(o?.opens)} />
        <Field label="Due" name="due" type="datetime-local" defaultValue={toInput(o?.due)} />
        <Field
          label="Attempts (0: no limit)"
          name="attempts"
          type="number"
          min={0}
          max={1000}
          defaultValue={o?.attempts ?? 0}
        />
      </div>
      <details open={!!o}>
        <summary className="text-bottle">Late work, attempts, visibility, accepted work</summary>
        <div className="flex flex-col gap-4 pt-4">
          <Field label="Closes" name="closes" type="datetime-local" defaultValue={toInput(o?.closes)} />
          <div className="grid gap-4 sm:grid-cols-3">
            <Choice
              label="Late work"
              name="late"
              value={o?.late ?? 'full'}
              options={[
                ['full', 'full marks until it closes'],
                ['per-day', 'a deduction per day'],
                ['grace', 'full marks in a grace period'],
                ['none', 'not accepted'],
              ]}
            />
            <Field
              label="Percent deducted per day"
              name="per_day"
              type="number"
              min={0}
              max={100}
              defaultValue={o?.per_day ?? 10}
            />
            <Field
              label="Grace period in minutes"
              name="grace"
              type="number"
              min={0}
              max={43200}
              defaultValue={o?.grace || 15}
            />
          </div>
          <div className="grid gap-4 sm:grid-cols-3">
            <Field
              label="Minutes between attempts"
              name="wait"
              type="number"
              min={0}
              max={10080}
              defaultValue={o?.wait ?? 0}
            />
            <Choice
              label="Attempt that counts"
              name="counts"
              value={o?.counts}
              options={[
                ['best', 'best'],
                ['last', 'last'],
              ]}
            />
          </div>
          <div className="grid gap-4 sm:grid-cols-2">
            <Choice label="Students see mark sheets" name="show_sheet" value={o?.show_sheet} options={moments} />
            <Choice label="Students see marks" name="show_marks" value={o?.show_marks} options={moments} />
          </div>
          <fieldset>
            <legend className="text-sm text-slate">Accepted work (none ticked: as the exercise says)</legend>
            <span className="flex flex-wrap gap-x-6">
              {kinds.map(([kind, label]) => (
                <label key={kind} className="flex items-center gap-2">
                  <input type="checkbox" name="takes" value={kind} defaultChecked={o?.takes?.includes(kind)} />
                  {label}
                </label>
              ))}
            </span>
          </fieldset>
        </div>
      </details>
    </>
  )
}

const moments: [string, string][] = [
  ['at-once', 'at once'],
  ['after-due', 'after the due time'],
  ['on-release', 'on release'],
]

export function readPolicy(f: FormData, revision = 0, was?: Assignment) {
  return {
    revision,
    opens: fromInput(f.get('opens')) ?? was?.opens ?? new Date().toISOString(),
    due: fromInput(f.get('due')),
    closes: fromInput(f.get('closes')),
    late: f.get('late'),
    per_day: Number(f.get('per_day')),
    grace: Number(f.get('grace')),
    attempts: Number(f.get('attempts')),
    wait: Number(f.get('wait')),
    counts: f.get('counts'),
    show_sheet: f.get('show_sheet'),
    show_marks: f.get('show_marks'),
    takes: f.getAll('takes'),
  }
}
