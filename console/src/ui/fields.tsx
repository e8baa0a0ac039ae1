import type { InputHTMLAttributes, ReactNode } from 'react'

// A field with its label above it.
export function Field({
  label,
  help,
  ...rest
}: { label: string; help?: string } & InputHTMLAttributes<HTMLInputElement>) {
  return (
    <label className="block">
      <span className="text-sm text-slate">{label}</span>
      <input className="field" {...rest} />
      {help && <span className="text-sm text-slate">{help}</span>}
    </label>
  )
}

// A password that somebody chooses; the service has the same least length.
export function NewPassword({ help = 'at least 8 characters', ...rest }: Parameters<typeof Field>[0]) {
  return <Field help={help} type="password" autoComplete="new-password" minLength={8} {...rest} />
}

export function Choice({
  label,
  name,
  value,
  options,
}: {
  label: string
  name: string
  value?: string
  options: [string, string][]
}) {
  return (
    <label className="block">
      <span className="text-sm text-slate">{label}</span>
      <select name={name} defaultValue={value} className="field">
        {options.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </label>
  )
}

export function Area({
  label,
  name,
  value,
  rows = 3,
  required,
}: {
  label: string
  name: string
  value?: string
  rows?: number
  required?: boolean
}) {
  return (
    <label className="block">
      <span className="text-sm text-slate">{label}</span>
      <textarea name={name} rows={rows} defaultValue={value} required={required} className="field" />
    </label>
  )
}

// What stands where there is nothing yet: what it is for, and how it comes to be.
export function Empty({ children }: { children: ReactNode }) {
  return <p className="max-w-[60ch] py-6 text-slate">{children}</p>
}

// A time of people's for an input of the browser, and back.
export const toInput = (t?: string | null) =>
  t ? new Date(new Date(t).getTime() - new Date(t).getTimezoneOffset() * 60000).toISOString().slice(0, 16) : ''
export const fromInput = (text: FormDataEntryValue | null) => (text ? new Date(String(text)).toISOString() : undefined)
