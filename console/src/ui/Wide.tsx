import type { ReactNode } from 'react'

// Wide lets a table be wider than the page: it then scrolls by itself, by the keyboard, too.
export function Wide({ children }: { children: ReactNode }) {
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="table">
      {children}
    </div>
  )
}
