// Picoseconds as people read them, as core/clock writes them.

export const second = 1e12

export const seconds = (t: number) => `${(t / second).toFixed(3)} s`

const units = [
  ['s', 1e12],
  ['ms', 1e9],
  ['µs', 1e6],
  ['ns', 1e3],
] as const

const trimmed = (v: number, decimals: number) => {
  const text = v.toFixed(decimals)
  return text.includes('.') ? text.replace(/\.?0+$/, '') : text
}

export function brief(t: number): string {
  for (const [unit, size] of units) {
    const v = t / size
    if (v >= 0.9995) return `${trimmed(v, v >= 99.95 ? 0 : v >= 9.995 ? 1 : 2)} ${unit}`
  }
  if (t === 0) return '0 s'
  const [unit, size] = units.find(([, size]) => Math.abs(t) >= size) ?? ['ps', 1]
  return `${trimmed(t / size, 2)} ${unit}`
}

// The steps of a ruler of the given length: about ten, at round numbers.
export function ruler(length: number): number[] {
  const rough = length / 10
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough) ?? rough
  const out = []
  for (let t = 0; t <= length; t += step) out.push(t)
  return out
}

const dates = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

// when writes a time of people's; a dash for none.
export const when = (t?: string | null) => (t ? dates.format(new Date(t)) : '–')

const whole = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'long',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
})

// local writes the times within a text of the service, which are in UTC, as they are where its reader is.
export const local = (text: string, write = whole.format) =>
  text.replace(/\b\d{1,2} [A-Z][a-z]+ \d{4} \d\d:\d\d:\d\d UTC\b/g, (t) =>
    Number.isNaN(Date.parse(t)) ? t : write(new Date(t)),
  )
