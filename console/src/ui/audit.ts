import type { AuditEntry } from '../types'

// What each action is in a sentence that begins with who did it. of is what it was done to, more what else is known.
const sentences: Record<string, (of: string, more: string) => string> = {
  'account added': (of, more) => `created the account ${of} (${more})`,
  'account changed': (of, more) => `changed the account ${of}: ${more}`,
  'sign-in link created': (of) => `created a sign-in link for ${of}`,
  'class created': (of, more) => `created the class ${more || of}`,
  'class changed': (of, more) => `changed the class: title “${of}”, ${more}`,
  'join code created': () => 'created a join code',
  'join code removed': () => 'removed the join code',
  'joined by code': () => 'joined by the join code',
  'member set': (of, more) => `set ${of} as ${more} of the class`,
  'member removed': (of) => `removed ${of} from the class`,
  'roster imported': (of) => `imported a roster: ${of}`,
  'library uploaded': (of) => `uploaded the library ${of}`,
  'library deleted': (of) => `deleted the library ${of}`,
  'exercise revised': (of, more) => `saved a revision of ${of}${more ? ` (${more})` : ''}`,
  'exercise assigned': (of, more) => `assigned ${of}${policy(more)}`,
  'exercise unassigned': (of) => `removed the assignment ${of}`,
  'marks released': (of) => `released the marks of ${of}`,
  'marks hidden': (of) => `hid the marks of ${of}`,
  'extension granted': (of, more) => `granted an extension for ${of.replace(': ', ' to ')}: ${more}`,
  'extension withdrawn': (of) => `withdrew the extension for ${of.replace(': ', ' from ')}`,
  'submission cancelled': (of, more) => `cancelled submission ${of} of ${more}`,
  'marks overridden': (of, more) => `changed marks of submission ${of}: ${more}`,
  'override withdrawn': (of, more) => `withdrew a change of marks of submission ${of}: ${more}`,
  'marks proposed': (of, more) => `marked ${of} again (${more})`,
  'proposed marks applied': (of, more) => `applied the proposed marks of submission ${of}${moved(more)}`,
  'job queued again': (of) => `queued job ${of} again`,
}

// sentence tells an entry as people would. What is not known here is told in the words of the log.
export function sentence(e: AuditEntry): string {
  const tell = sentences[e.action]
  const text = tell ? tell(e.subject, e.detail ?? '') : [e.action, e.subject, e.detail].filter(Boolean).join(', ')
  return `${e.by} ${text}.`.replace(/\.\.$/, '.')
}

function json<T>(text: string): Partial<T> {
  try {
    return JSON.parse(text) as T
  } catch {
    return {}
  }
}

function moved(text: string) {
  const m = json<{ student: string; was: string; is: string }>(text)
  return m.is === undefined ? '' : `: ${m.student} ${m.was} → ${m.is}`
}

function policy(text: string) {
  const p = json<{ due: string; attempts: number; late: string; revision: number }>(text)
  const parts = [
    p.revision ? `revision ${p.revision}` : '',
    p.due ? `due ${new Date(p.due).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}` : '',
    p.attempts ? `${p.attempts} attempts` : '',
    p.late && p.due ? `late work: ${p.late}` : '',
  ].filter(Boolean)
  return parts.length ? `: ${parts.join(', ')}` : ''
}
