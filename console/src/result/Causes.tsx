import type { Sheet } from '../types'
import { SourceLine } from './SourceText'

const tested: Record<string, string> = {
  reel: 'repaired on the reel and judged again',
  replay: 'replayed with a repaired bench',
  run: 'run again',
}

// Causes are those that were tested by repairing them: they are about the whole sheet.
export function Causes({ sheet }: { sheet: Sheet }) {
  const causes = sheet.findings.filter((f) => f.fidelity)
  const cutOff = sheet.cut_off && (
    <p className="pb-4 text-amber">
      ≈ Not every possible cause was tried: the search ended at its limit. A person should look at what was lost.
    </p>
  )
  if (!causes.length) return cutOff || null
  return (
    <section className="pb-6" aria-labelledby="causes">
      <h2 id="causes" className="pb-2 text-lg">
        Likely {causes.length > 1 ? 'causes' : 'cause'}
      </h2>
      <ul>
        {causes.map((f, i) => (
          <li key={i} className="flex gap-3 border-t border-line py-2">
            <span className="text-brick">✗</span>
            <span>
              {f.text} {!!f.price && <strong>One mistake: −{+f.price.toFixed(2)}. </strong>}
              {f.repaired !== undefined && (
                <strong className="text-moss">
                  With this repaired{i > 0 ? ', too' : ''}: {+f.repaired.toFixed(2)} / {sheet.of}
                </strong>
              )}{' '}
              <span className="text-sm text-slate">
                {tested[f.fidelity ?? '']}; {f.trial}
                {f.evidence.map((e) => `, ${e}`)}
              </span>
              <SourceLine source={f.source} />
            </span>
          </li>
        ))}
      </ul>
      {cutOff}
    </section>
  )
}
