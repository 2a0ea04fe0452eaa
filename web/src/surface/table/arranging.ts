import type { Condition, Heading, LookTotal, TableColumn } from '@/api/types'
import type { Table } from './table'
import { sameTotal } from './words'

const least = 48

/** The ways in which a person arranges a table. */
export function arranging(table: Table) {
  const shown = () => table.columns.value.map((c) => ({ path: c.path, label: c.label, above: c.above }))

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

  function show(columns: TableColumn[]): void {
    void table.lookAt({ columns: columns.length ? columns : undefined })
  }

  function move(from: number, to: number): void {
    const columns = shown()
    if (to < 0 || to >= columns.length) return
    columns.splice(to, 0, ...columns.splice(from, 1))
    show(columns)
  }

  const hide = (path: string) => show(shown().filter((c) => c.path !== path))

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

  function group(heading: Heading, span?: 'month' | 'year'): void {
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

  return { orderBy, order, show, move, hide, width, fit, pin, group, hideGroup, total, filter }
}

export type Arranging = ReturnType<typeof arranging>
