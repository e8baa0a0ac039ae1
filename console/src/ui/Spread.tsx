// Spread is how many there are of each kind, as columns with their numbers.
export function Spread({ columns }: { columns: { name: string; count: number }[] }) {
  const most = Math.max(1, ...columns.map((c) => c.count))
  return (
    <ol className="flex h-56 gap-2">
      {columns.map((c) => (
        <li key={c.name} className="flex min-w-0 flex-1 flex-col items-center text-sm">
          <span className="sr-only">{c.name}: </span>
          <span className="flex w-full flex-1 flex-col items-center justify-end">
            {c.count > 0 && <span className="text-slate">{c.count}</span>}
            <span className="w-full rounded-t bg-bottle" style={{ height: `${(c.count / most) * 85}%` }} />
          </span>
          <span aria-hidden className="w-full border-t border-line pt-1 text-center text-slate">
            {c.name}
          </span>
        </li>
      ))}
    </ol>
  )
}
