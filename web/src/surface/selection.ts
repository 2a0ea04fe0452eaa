import type { ChosenRow, Look } from '@/api/types'

/** The rows chosen in a table: some, or all that match a look but for some. */
export interface Selection {
  rows: ChosenRow[]
  all: Look | null
}

export const nothing = (): Selection => ({ rows: [], all: null })

/** As it is sent with an answer. */
export function answerOf(s: Selection, select: string): unknown {
  if (select === 'one') return s.rows[0] ?? null
  return s.all ? { all: s.all, except: s.rows.map((r) => r.id) } : s.rows
}

/** As it is sent with a request about the rows chosen. */
export function chosenOf(s: Selection): { keys?: number[]; all?: Look; except?: number[] } {
  const keys = s.rows.map((r) => r.id)
  return s.all ? { all: s.all, except: keys } : { keys }
}

/** Where all that match a look are chosen, a row of another may be apart from them. */
export const has = (s: Selection, ids: Set<number>, row: { id: number; apart?: boolean }) =>
  s.all ? !row.apart && !ids.has(row.id) : ids.has(row.id)

export const count = (s: Selection, total: number) => (s.all ? total - s.rows.length : s.rows.length)
