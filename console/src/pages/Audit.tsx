import { part } from '../api'
import { useClass } from '../data/class'
import { AuditLog } from '../ui/AuditLog'

// ClassAudit is what changed marks and rights of a class.
export const ClassAudit = () => <AuditLog page path={`/classes/${part(useClass().name)}/audit`} />
