import type { Message } from '../types'

const kinds: Record<string, [string, string]> = { error: ['✗', 'text-brick'], warning: ['≈', 'text-amber'] }

// Messages are the compiler's, each with the line it is about, and what is to be said of the file.
export function Messages({ list }: { list?: Message[] }) {
  if (!list?.length) return null
  return (
    <section className="pb-6">
      <h2 className="pb-2 text-lg">About the file</h2>
      <ul>
        {list.map((m, i) => {
          const [sign, colour] = kinds[m.kind] ?? ['·', 'text-slate']
          return (
            <li key={i} className="border-t border-line py-2">
              <p>
                <span className={`${colour} pr-3`}>
                  {sign} {m.kind}
                </span>
                {m.text}
                {m.file && (
                  <span className="pl-4 font-mono text-sm text-slate">
                    {m.line ? `line ${m.line} ` : ''}
                    {m.file}
                  </span>
                )}
              </p>
              {m.code && (
                <pre className="overflow-x-auto pl-8 font-mono text-sm">{`${m.code}${m.column ? `\n${m.code.slice(0, m.column - 1).replace(/[^\t]/g, ' ')}▲` : ''}`}</pre>
              )}
            </li>
          )
        })}
      </ul>
    </section>
  )
}
