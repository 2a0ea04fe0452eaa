import { watch } from 'vue'
import type { LookGroup, RowView } from '@/api/types'
import { wallAt } from '@/fields/zone'
import type { Edits } from './edits'
import { sameKey } from './same'
import type { Table } from './table'

/** A row on its way from one group to another. */
export interface Move {
  row: RowView
  /** The columns that its cells were read by. */
  paths: string[]
  from: unknown
  to: unknown
}

/** The key of the group that a value belongs to. */
function keyOf(v: unknown, by: LookGroup): unknown {
  if (!by.span || v === null || v === undefined) return v ?? null
  const text = String(v)
  const day = text.length > 10 ? wallAt(new Date(text)).day : text
  const [year, month] = day.split('-').map(Number)
  const first = by.span === 'year' ? 1 : month
  return `${String(year).padStart(4, '0')}-${String(first).padStart(2, '0')}-01`
}

/** Rows go to their new group as soon as the field is changed that the table is grouped by. */
export function useMoves(table: Table, edits: Edits): void {
  watch(
    [edits.rows, () => table.shown.value.group],
    ([rows, by]) => {
      const before = table.moved.value
      const moved = new Map<number, Move>()
      for (const [id, e] of rows) {
        if (!by || !(by.path in e.values)) continue
        const to = keyOf(e.values[by.path], by)
        const from = keyOf(e.before[by.path], by)
        if (!sameKey(from, to)) moved.set(id, { row: e.row, paths: e.paths, from, to })
      }
      table.moved.value = moved
      for (const [id, m] of moved) {
        if (before.has(id)) continue
        const group = table.groups.value?.groups.find((g) => sameKey(g.key, m.to))
        if (group && !table.isOpen(group)) void table.toggle(group)
      }
    },
    { flush: 'sync' },
  )
}
