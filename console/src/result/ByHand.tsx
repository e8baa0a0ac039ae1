import { OverrideAll } from '../ui/MarkMany'
import { type About, exerciseOf } from './about'

// ByHand is the rows that a person marks.
export function ByHand({ result, staff, again }: About) {
  const rows = result.sheet?.by_hand
  if (!rows?.length) return null
  return (
    <section className="pb-6">
      <h2 className="pb-2 text-lg">Marked by hand</h2>
      <table className="book">
        <tbody>
          {rows.map((r, i) => (
            <tr key={i}>
              <td>
                {r.what} {r.notes && <span className="text-sm text-slate">{r.notes}</span>}
              </td>
              <td className="text-sm text-slate">{r.given && `${r.given.by}: ${r.given.reason}`}</td>
              <td className="number">
                {r.given ? r.given.marks : '–'} / {r.of}
                {staff && (
                  <OverrideAll
                    at={exerciseOf(result)}
                    className={result.class}
                    submissions={[result.id]}
                    of={r.of}
                    what={r.what}
                    where={{ row: i }}
                    done={again}
                  />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
