import { useState } from 'react'

// Copy puts a text where the next paste takes it from, and says that it did.
export function Copy({ text, label }: { text: string; label: string }) {
  const [done, setDone] = useState<boolean>()
  return (
    <button
      type="button"
      className="quiet"
      aria-label={label}
      onClick={() =>
        Promise.resolve()
          .then(() => navigator.clipboard.writeText(text))
          .then(
            () => setDone(true),
            () => setDone(false),
          )
      }
    >
      {done === undefined ? 'Copy' : done ? '✓ copied' : '✗ not allowed here: mark it and copy'}
    </button>
  )
}
