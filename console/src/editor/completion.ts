// What can be written at a place of an exercise file, by its schema.

export interface Schema {
  properties?: Record<string, Schema>
  additionalProperties?: Schema | boolean
  items?: Schema
  oneOf?: Schema[]
  enum?: unknown[]
  const?: unknown
  description?: string
  default?: unknown
  required?: string[]
}

export interface Place {
  path: string[] // keys from the root; [] for an item of a list
  pairs: Map<string, string> // of the mapping that is written, as far as they are there
  key?: string // whose value is written; undefined where a key is
  from: number // where the word under way begins
}

export interface Word {
  label: string
  info?: string
  value?: boolean // else a key
}

const item = '[]'
const scalar = /^["']?([^"'{}[\],#]*?)["']?\s*(#.*)?$/

interface Line {
  indent: number // of its key, behind the dashes
  dashes: number[] // where they stand
  key?: string
  value: string
}

function readLine(text: string): Line {
  let indent = 0
  const dashes: number[] = []
  for (;;) {
    indent += text.slice(indent).length - text.slice(indent).trimStart().length
    if (!/^-(\s|$)/.test(text.slice(indent))) break
    dashes.push(indent)
    indent++
  }
  const m = /^([\w.-]+)\s*:(?:\s+(.*)|$)/.exec(text.slice(indent))
  return { indent, dashes, key: m?.[1], value: m ? (m[2] ?? '') : text.slice(indent) }
}

// opened returns how many brackets of a text are open at its end.
function opened(text: string) {
  let depth = 0
  for (const c of text.replace(/"(\\.|[^"])*"?|'[^']*'?|(^|\s)#.*/gm, ''))
    depth += '{['.includes(c) ? 1 : '}]'.includes(c) ? -1 : 0
  return depth
}

// place finds where a position of a file is in its structure.
export function place(text: string, pos: number): Place {
  const lines = text.slice(0, pos).split('\n')
  const all = text.split('\n')
  let first = lines.length - 1
  while (
    first > 0 &&
    lines.length - first < 40 &&
    opened(lines.slice(first).join('\n')) > 0 &&
    opened(lines[first]) <= 0
  )
    first--
  while (first > 0 && lines.length - first < 40 && opened(lines.slice(0, first).slice(-40).join('\n')) > 0) first--
  const head = readLine(lines[first])
  const word = /[\w.${}-]*$/.exec(lines.at(-1)!)![0]
  const out: Place = { path: [], pairs: new Map(), from: pos - word.length }
  blockPath(lines, first, head, out)
  const flow = lines
    .slice(first)
    .join('\n')
    .slice(head.key ? lines[first].length - head.value.length : head.indent)
  const open = opened(flow) > 0
  if (head.key && (open || /:\s/.test(lines[first]))) out.path.push(head.key)
  if (open) return flowPlace(flow, text.slice(pos), out)
  if (head.key && /:\s/.test(lines[first]))
    return { ...out, path: out.path.slice(0, -1), key: head.key, pairs: siblings(all, first, head) }
  return { ...out, pairs: siblings(all, first, head) }
}

// blockPath adds the keys above a line that it belongs to.
function blockPath(lines: string[], at: number, head: Line, out: Place) {
  const path: string[] = []
  for (const d of [...head.dashes].reverse()) {
    path.push(item)
    head = { ...head, indent: d }
  }
  let indent = head.dashes[0] ?? head.indent
  let dashed = head.dashes.length > 0
  for (let i = at - 1; i >= 0; i--) {
    if (!lines[i].trim() || lines[i].trim().startsWith('#')) continue
    const l = readLine(lines[i])
    const outer = l.dashes[0] ?? l.indent
    if (l.dashes.length && l.indent === indent && !dashed) {
      path.push(...l.dashes.map(() => item))
      ;[indent, dashed] = [outer, true]
    } else if (l.key && (l.indent < indent || (dashed && l.indent === indent)) && !l.value.replace(/#.*/, '').trim()) {
      path.push(l.key, ...l.dashes.map(() => item))
      ;[indent, dashed] = [outer, l.dashes.length > 0]
    } else if (outer < indent && l.dashes.length && l.indent < indent) {
      path.push(...l.dashes.map(() => item))
      ;[indent, dashed] = [outer, true]
    }
  }
  out.path = path.reverse()
}

// siblings are the pairs of the block mapping that a line belongs to.
function siblings(all: string[], at: number, head: Line) {
  const pairs = new Map<string, string>()
  const take = (l: Line) => l.key && l.indent === head.indent && pairs.set(l.key, scalar.exec(l.value)?.[1] ?? '')
  for (let i = at; i >= 0; i--) {
    const l = readLine(all[i])
    if (!all[i].trim()) continue
    if (l.indent < head.indent) break
    if (i < at) take(l)
    if (l.dashes.length && l.indent === head.indent) break
  }
  for (let i = at + 1; i < all.length; i++) {
    const l = readLine(all[i])
    if (!all[i].trim()) continue
    if ((l.dashes[0] ?? l.indent) < head.indent) break
    take(l)
  }
  return pairs
}

// flowPlace goes through brackets.
function flowPlace(flow: string, rest: string, out: Place): Place {
  const stack: { map: boolean; key?: string; pairs: Map<string, string> }[] = []
  let start = 0
  const end = (i: number) => {
    const top = stack.at(-1)
    if (top?.map && top.key) top.pairs.set(top.key, scalar.exec(flow.slice(start, i).trim())?.[1] ?? '')
  }
  for (let i = 0; i < flow.length; i++) {
    const c = flow[i]
    const top = stack.at(-1)
    if (c === '"' || c === "'") {
      const close = flow.indexOf(c, i + 1)
      if (close < 0) break
      i = close
    } else if ('{['.includes(c)) {
      stack.push({ map: c === '{', pairs: new Map() })
      start = i + 1
    } else if ('}]'.includes(c)) {
      end(i)
      stack.pop()
      start = i + 1
    } else if (c === ',') {
      end(i)
      if (top) top.key = undefined
      start = i + 1
    } else if (c === ':' && top?.map && top.key === undefined && /[\s\n]/.test(flow[i + 1] ?? ' ')) {
      top.key = flow.slice(start, i).trim()
      start = i + 1
    }
  }
  for (const s of stack.slice(0, -1)) out.path.push(s.map ? (s.key ?? '') : item)
  const inner = stack.at(-1)!
  if (!inner.map) return { ...out, path: [...out.path, item], key: '' }
  let depth = 0
  for (const m of rest.matchAll(/[{[]|[}\]]|([\w-]+)\s*:\s+([\w.-]+)/g)) {
    if ('{['.includes(m[0])) depth++
    else if ('}]'.includes(m[0]) && depth-- === 0) break
    else if (m[1] && depth === 0) inner.pairs.set(m[1], m[2])
  }
  return { ...out, pairs: inner.pairs, key: inner.key }
}

// branches are the schemas that may hold, of alternatives those that fit the pairs that are there.
function branches(s: Schema | undefined, pairs?: Map<string, string>): Schema[] {
  if (!s) return []
  if (!s.oneOf) return [s]
  const fits = s.oneOf.filter((b) =>
    [...(pairs ?? [])].every(([k, v]) => {
      const p = b.properties?.[k]
      return p ? p.const === undefined || String(p.const) === v : b.additionalProperties !== false
    }),
  )
  return (fits.length ? fits : s.oneOf).flatMap((b) => branches(b, pairs))
}

function follow(schema: Schema, path: string[]): Schema[] {
  let now = [schema]
  for (const step of path)
    now = now
      .flatMap((s) => branches(s))
      .flatMap((s) =>
        step === item
          ? s.items
            ? [s.items]
            : []
          : s.properties?.[step]
            ? [s.properties[step]]
            : typeof s.additionalProperties === 'object'
              ? [s.additionalProperties]
              : [],
      )
  return now
}

// parts are the names under bench:, which other places refer to.
export function parts(text: string): string[] {
  const block = /^bench:\s*\n((?:[ \t]+.*\n|[ \t]*\n)*)/m.exec(text)?.[1] ?? ''
  const indent = /^[ \t]*(?=[\w-]+:)/m.exec(block)?.[0] ?? ''
  return [...block.matchAll(/^([ \t]*)([\w-]+):/gm)].filter((m) => m[1] === indent).map((m) => m[2])
}

const refers = ['press', 'hold', 'release', 'turn', 'set', 'type', 'display', 'while']

// words lists what can be written at a place.
export function words(schema: Schema, at: Place, names: string[], pins: string[]): Word[] {
  const here = follow(schema, at.path).flatMap((s) => branches(s, at.pairs))
  const out = new Map<string, Word>()
  if (at.key === undefined) {
    for (const s of here)
      for (const [label, p] of Object.entries(s.properties ?? {}))
        if (!at.pairs.has(label) && !out.has(label)) out.set(label, { label, info: p.description })
    return [...out.values()]
  }
  const values =
    at.key === ''
      ? here
      : here.flatMap((s) =>
          s.properties?.[at.key!]
            ? [s.properties[at.key!]]
            : typeof s.additionalProperties === 'object'
              ? [s.additionalProperties]
              : [],
        )
  for (const v of values.flatMap((s) => branches(s)))
    for (const w of [...(v.enum ?? []), v.const, v.default])
      if (w !== undefined && w !== null) out.set(String(w), { label: String(w), info: v.description, value: true })
  if (at.path.at(-1) === 'pins') for (const p of pins) out.set(p, { label: p, value: true })
  const kind = here.some((s) => s.required?.includes(at.key!) && at.path.at(-1) === item && at.path.at(-2) !== 'cues')
  if (refers.includes(at.key) || (kind && at.path.includes('expect')))
    for (const n of names) out.set(n, { label: n, value: true })
  return [...out.values()]
}
