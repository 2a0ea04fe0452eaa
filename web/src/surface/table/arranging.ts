import { computed, shallowRef, watch } from 'vue'
import type { Condition, Heading, LookGroup, LookTotal, TableColumn } from '@/api/types'
import type { Table } from './table'
import { sameTotal } from './words'

const least = 48

const plain = (columns: Heading[]): TableColumn[] =>
  columns.map(({ path, label, above }) => ({ path, label, above }))

/** The ways in which a person arranges a table. */
export function arranging(table: Table) {
  // Columns asked for and not answered yet: a second change builds on the first.
  const asked = shallowRef<TableColumn[] | null>(null)
  watch(table.columns, () => (asked.value = null), { flush: 'sync' })
  const shown = computed<TableColumn[]>(() => asked.value ?? plain(table.columns.value))

  /** Orders by a column: up, then down, then not at all. Adding keeps the orders before it. */
  function orderBy(path: string, add: boolean): void {
    const orders = table.arrangement.value.look.order ?? []
    const now = orders.find((o) => o.path === path)
    const next = !now ? { path } : now.desc ? null : { path, desc: true }
    let order
    if (!add) order = next ? [next] : []
    else if (!now) order = [...orders, { path }]
    else order = orders.flatMap((o) => (o.path !== path ? [o] : next ? [next] : []))
    void table.lookAt({ order: order.length ? order : undefined })
  }

  function order(path: string, desc: boolean): void {
    void table.lookAt({ order: [{ path, desc: desc || undefined }] })
  }

  /** Shows these columns, none for those it came with. */
  function show(columns: TableColumn[]): Promise<unknown> {
    asked.value = columns.length ? columns : plain(table.came())
    return table.lookAt({ columns: columns.length ? columns : undefined })
  }

  /** Puts a column to where another is, counted from nought. */
  async function move(path: string, to: number): Promise<void> {
    const columns = [...shown.value]
    const from = columns.findIndex((c) => c.path === path)
    if (from < 0 || to < 0 || to >= columns.length) return
    columns.splice(to, 0, ...columns.splice(from, 1))
    await show(columns)
  }

  const moveBy = (path: string, step: number) =>
    move(path, shown.value.findIndex((c) => c.path === path) + step)

  const add = (column: TableColumn) => show([...shown.value, column])
  const hide = (path: string) => show(shown.value.filter((c) => c.path !== path))

  function width(path: string, pixels: number): void {
    const widths = { ...table.arrangement.value.widths, [path]: Math.max(least, Math.round(pixels)) }
    table.arrange({ widths })
  }

  /** Back to the width that fits what is in the column. */
  function fit(path: string): void {
    const widths = Object.entries(table.arrangement.value.widths ?? {}).filter(([p]) => p !== path)
    table.arrange({ widths: widths.length ? Object.fromEntries(widths) : undefined })
  }

  const pin = (count: number) => table.arrange({ pinned: count || undefined })

  function group(heading: Heading, span?: LookGroup['span']): void {
    void table.lookAt({ group: { path: heading.path, span } })
  }

  /** Leaves the records of a group out. */
  function hideGroup(key: unknown): void {
    const group = table.arrangement.value.look.group
    if (group) void table.lookAt({ group: { ...group, hidden: [...(group.hidden ?? []), key ?? null] } })
  }

  function total(t: LookTotal): void {
    const totals = table.arrangement.value.look.totals ?? []
    const without = totals.filter((o) => !sameTotal(o, t))
    void table.lookAt({ totals: without.length < totals.length ? without : [...totals, t] })
  }

  function filter(conditions: Condition[]): void {
    void table.lookAt({ filter: conditions.length ? conditions : undefined })
  }

  return {
    shown,
    orderBy,
    order,
    show,
    move,
    moveBy,
    add,
    hide,
    width,
    fit,
    pin,
    group,
    hideGroup,
    total,
    filter,
  }
}

export type Arranging = ReturnType<typeof arranging>
