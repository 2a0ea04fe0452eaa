import type { Condition, Operand } from '@/api/types'

const given = (o?: Operand): boolean =>
  !!o && (!!o.expression || (o.literal !== undefined && o.literal !== null && o.literal !== ''))

/** Whether a condition, or one within it, does not say yet what it asks. */
export function unfinished(c: Condition): boolean {
  if (c.related) return unfinished(c.related.where)
  const members = c.all ?? c.any
  if (members) return members.some(unfinished)
  if (c.field === undefined) return c.expression === ''
  if (!c.field) return true
  if (c.op === 'is_empty' || c.op === 'is_not_empty') return false
  if (c.op === 'one_of') return !(c.values?.length && c.values.every(given)) && !given(c.value)
  return !given(c.value) || (c.op === 'between' && !given(c.to))
}

/** Whether a condition asks anything at all. */
export function asks(c: Condition | undefined): boolean {
  return !!c && (!!(c.field || c.related || c.expression) || !!(c.all ?? c.any)?.length)
}
