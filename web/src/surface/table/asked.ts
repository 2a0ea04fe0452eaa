import type { Asked, ChosenRow } from '@/api/types'
import { fieldTypes } from '@/fields/fields'

/** How wide the input of a value that is asked for in each row is. */
export function askedWidth(a: Asked): number {
  const own = fieldTypes[a.type].right ? 110 : 190
  return Math.max(own, Math.min(a.label.length * 8 + 16, 260))
}

export const isGiven = (v: unknown) => v !== null && v !== undefined && v !== ''

/** The rows that were filled in after something was given in one of them; one with nothing in it is none. */
export function withGiven(
  rows: ChosenRow[],
  row: { id: number; label: string },
  key: string,
  value: unknown,
): ChosenRow[] {
  const had = rows.find((r) => r.id === row.id)
  const values = { ...had?.values, [key]: isGiven(value) ? value : null }
  if (!Object.values(values).some(isGiven)) return rows.filter((r) => r.id !== row.id)
  const now = { id: row.id, label: row.label, values }
  return had ? rows.map((r) => (r.id === row.id ? now : r)) : [...rows, now]
}
