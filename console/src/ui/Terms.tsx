import type { Assignment } from '../types'
import { Choice, Field, fromInput, toInput } from './fields'

// The terms of an assignment as fields of a form, and back.
export function TermsFields({ o }: { o?: Assignment }) {
  return (
    <>
      <div className="grid gap-4 sm:grid-cols-3">
        <Field
          label="Opens (at once where it is empty)"
          name="opens"
          type="datetime-local"
          defaultValue={toInput(o?.opens)}
        />
        <Field label="Due" name="due" type="datetime-local" defaultValue={toInput(o?.due)} />
        <Field
          label="Attempts (0: any number)"
          name="attempts"
          type="number"
          min={0}
          max={1000}
          defaultValue={o?.attempts ?? 0}
        />
      </div>
      <details open={!!o}>
        <summary className="text-bottle">lateness, what counts, when students see what, what is taken</summary>
        <div className="flex flex-col gap-4 pt-4">
          <Field label="Closes" name="closes" type="datetime-local" defaultValue={toInput(o?.closes)} />
          <div className="grid gap-4 sm:grid-cols-3">
            <Choice
              label="Late work"
              name="late"
              value={o?.late ?? 'full'}
              options={[
                ['full', 'counts whole until it closes'],
                ['per-day', 'loses a share each day'],
                ['grace', 'counts whole for some minutes'],
                ['none', 'is not taken'],
              ]}
            />
            <Field
              label="Percent lost each day"
              name="per_day"
              type="number"
              min={0}
              max={100}
              defaultValue={o?.per_day ?? 10}
            />
            <Field
              label="Minutes of grace"
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
              label="What counts"
              name="counts"
              value={o?.counts}
              options={[
                ['best', 'the best attempt'],
                ['last', 'the last attempt'],
              ]}
            />
          </div>
          <div className="grid gap-4 sm:grid-cols-2">
            <Choice
              label="Students see what the display showed"
              name="show_sheet"
              value={o?.show_sheet}
              options={moments}
            />
            <Choice label="Students see marks" name="show_marks" value={o?.show_marks} options={moments} />
          </div>
          <fieldset>
            <legend className="text-sm text-slate">Work that is taken; with none ticked, what the exercise says</legend>
            <span className="flex flex-wrap gap-x-6">
              {works.map(([kind, label]) => (
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

// The kinds of work, how they are called, and the endings of their files.
export const works: [string, string, string][] = [
  ['firmware', 'firmware', '.hex, .elf'],
  ['source', 'source', '.c, .cpp, .ino, .zip'],
  ['capture', 'captures of a logic analyser', '.vcd'],
]

const moments: [string, string][] = [
  ['at-once', 'at once'],
  ['after-due', 'after the due time'],
  ['on-release', 'once they are released'],
]

export function readTerms(f: FormData, revision = 0, was?: Assignment) {
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
