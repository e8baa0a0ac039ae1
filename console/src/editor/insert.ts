// inserted returns where a piece belongs in an exercise's text, and how it reads there: at the end of the bench, or of the last trial's
// expectations, moved in as its neighbours are. A text without such a place gets one at its end.
export function inserted(text: string, piece: string, under: 'bench' | 'expect'): { at: number; text: string } {
  const lines = text.split('\n')
  const offset = (line: number) => lines.slice(0, line).reduce((n, l) => n + l.length + 1, 0)
  const key = new RegExp(`^(\\s*(?:- )?)${under}:\\s*(.*)$`)
  let head = -1
  for (let i = 0; i < lines.length; i++) if (key.test(lines[i]) && (under === 'expect' || head < 0)) head = i
  const moved = (indent: string) =>
    piece
      .trim()
      .split('\n')
      .map((l, i) => (under === 'expect' ? `${indent}${i ? '  ' : '- '}${l}` : `${indent}${l}`))
      .join('\n') + '\n'
  if (head < 0) {
    const gap = text === '' || text.endsWith('\n') ? '' : '\n'
    return { at: text.length, text: `${gap}${under}:\n${moved('  ')}` }
  }
  const own = key.exec(lines[head])![1].length // how far the key is moved in, its dash included
  let end = head + 1
  let indent = ''
  for (let i = head + 1; i < lines.length; i++) {
    if (lines[i].trim() === '') continue
    const depth = /^ */.exec(lines[i])![0].length
    const item = under === 'expect' && lines[i].trimStart().startsWith('- ') // a list may stand as far in as its key
    if (depth < own || (depth === own && !item)) break
    indent ||= lines[i].slice(0, depth)
    end = i + 1
  }
  return {
    at: Math.min(text.length, offset(end)),
    text: (text.endsWith('\n') || end < lines.length ? '' : '\n') + moved(indent || ' '.repeat(own + 2)),
  }
}
