import type { Drawn, Schematic as Drawing } from '../types'
import { Wide } from '../ui/Wide'

const sizes: Record<string, string> = {
  name: 'text-[13px] font-semibold fill-ink',
  net: 'text-[11px] font-mono fill-ink',
  pin: 'text-[9px] fill-slate',
  value: 'text-[10px] fill-slate',
}

// Schematic draws a bench as a circuit diagram, in the page's inks.
export function Schematic({ drawing, label }: { drawing: Drawing; label: string }) {
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label={label}>
      <svg
        viewBox={`-4 -4 ${drawing.width + 8} ${drawing.height + 12}`}
        role="img"
        aria-label={label}
        className="w-full min-w-[520px]"
        style={{ maxWidth: drawing.width * 1.35 }}
      >
        <path d={drawing.strokes.join('')} className="fill-none stroke-ink" strokeWidth={1.2} strokeLinejoin="round" />
        <path d={drawing.fills.join('')} className="fill-ink" />
        {drawing.texts.map((t, i) => (
          <text key={i} x={t.x} y={t.y} textAnchor={t.anchor} className={sizes[t.role]}>
            {t.text}
          </text>
        ))}
      </svg>
    </div>
  )
}

const ohms = (n: number) =>
  n >= 1e6 && n % 1e5 === 0 ? `${n / 1e6} MΩ` : n >= 1000 && n % 100 === 0 ? `${n / 1000} kΩ` : `${n} Ω`

// Wires lists the pins of the package with what is wired to each, and the resistor in between.
export function Wires({ wires }: { wires: Drawn['wires'] }) {
  return (
    <Wide>
      <table className="book">
        <thead>
          <tr>
            <th className="number">Pin</th>
            <th>Port</th>
            <th>To</th>
            <th className="number">Resistor</th>
            <th>What it is</th>
          </tr>
        </thead>
        <tbody>
          {wires?.flatMap((w) =>
            w.ends.map((e, i) => (
              <tr key={`${w.net} ${e.part} ${e.pin}`}>
                <td className="number font-mono text-sm">{i === 0 ? w.package || '' : ''}</td>
                <td className="font-mono text-sm whitespace-nowrap" title={w.also?.join(', ')}>
                  {i === 0 ? w.net : ''}
                </td>
                <td className="font-mono text-sm whitespace-nowrap">
                  {e.part} {e.pin}
                </td>
                <td className="number font-mono text-sm">{e.ohms ? ohms(e.ohms) : ''}</td>
                <td className="text-sm text-slate">{e.doc}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
    </Wide>
  )
}
