import type { Variant } from '../types'
import { Wide } from '../ui/Wide'

// alike joins variants that nobody could tell apart: the same fault, the same marks, the same advice.
function alike(variants: Variant[]) {
  const rows: { variant: Variant; times: number }[] = []
  for (const v of [...variants].sort((a, b) => Number(a.caught) - Number(b.caught))) {
    const same = rows.find(
      (r) =>
        r.variant.effect === v.effect &&
        r.variant.marks === v.marks &&
        r.variant.caught === v.caught &&
        r.variant.part === v.part,
    )
    if (same) same.times++
    else rows.push({ variant: v, times: 1 })
  }
  return rows
}

// Strength is which typical mistakes the expectations notice, and what such a program would get.
export function Strength({ variants }: { variants: Variant[] }) {
  const caught = variants.filter((v) => v.caught).length
  return (
    <section aria-label="strength" className="pt-2">
      <p className={caught === variants.length ? 'text-moss' : 'text-amber'}>
        {caught === variants.length ? '✓' : '≈'} {caught} of {variants.length} faults caught
      </p>
      <Wide>
        <table className="book">
          <thead>
            <tr>
              <th>Fault</th>
              <th className="number">Marks</th>
              <th>What would catch it</th>
            </tr>
          </thead>
          <tbody>
            {alike(variants).map(({ variant: v, times }, i) => (
              <tr key={i}>
                <td className="py-1">
                  <span className={v.caught ? 'pr-2 text-moss' : 'pr-2 text-amber'}>{v.caught ? '✓' : '≈'}</span>
                  {v.picture && (
                    <img
                      alt={`${v.part} with this fault`}
                      className="mr-2 inline h-10 align-middle"
                      src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(v.picture)}`}
                    />
                  )}
                  {v.effect.startsWith('everything') ? v.effect : `${v.part}: ${v.effect}`}
                  {times > 1 ? ` (${times} variants that look the same)` : ''}
                </td>
                <td className="number">
                  {v.marks} / {v.of}
                </td>
                <td className="text-sm text-slate">{v.add}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </section>
  )
}
