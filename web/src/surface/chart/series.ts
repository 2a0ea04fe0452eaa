import type { ChartPartView, Figure, GroupView, Heading, Look } from '@/api/types'
import { fieldTypes, format } from '@/fields/fields'
import { groupWords } from '../table/words'

/** What stands at one place of a series. */
export interface Mark {
  group: GroupView
  /** The figure as it is read; it stays exact. */
  says: string
  /** The figure as a length: the digits suffice for drawing. */
  size: number
}

/** What is drawn in one colour. */
export interface Series {
  name: string
  /** By place along the axis; null where there is nothing. */
  marks: (Mark | null)[]
}

export interface Drawn {
  /** What stands at each place of the axis, in words. */
  places: string[]
  series: Series[]
}

/** What somebody pressed in a chart: a group, by its keys, or a record that is a dot. */
export interface Picked {
  within?: unknown
  deeper?: unknown[]
  dot?: number
}

const keyOf = (value: unknown) => JSON.stringify(value ?? null)

/** The length of a figure, and its currency: amounts of each have a series of their own. */
function length(f: Figure, v: unknown): { unit: string; size: number } {
  if (f.type !== 'money') return { unit: '', size: Number(v) }
  const m = v as { amount: string; currency: string }
  return { unit: m.currency, size: Number(m.amount) }
}

/** The figures of a group: each as it is read, how long it is drawn, and in which currency it is. */
function figures(
  g: GroupView,
  headings: Map<string, Heading>,
): { unit: string; says: string; size: number }[] {
  const figure = g.totals[0]
  if (!figure) return [{ unit: '', says: g.count.toLocaleString(), size: g.count }]
  const heading = { ...headings.get(figure.path), type: figure.type } as Heading
  return figure.values
    .map((v) => ({ says: format(heading, v), ...length(figure, v) }))
    .filter((f) => Number.isFinite(f.size)) // one that could not be computed has no length
}

export const headingsOf = (view: Pick<ChartPartView, 'headings'>) =>
  new Map(view.headings.map((h) => [h.path, h]))

/** What is drawn of groups: a series for each group in them, and of those for each currency. */
export function drawn(view: Pick<ChartPartView, 'charted' | 'headings' | 'look'>): Drawn {
  const { group: by } = view.look
  if (!view.charted || !by) return { places: [], series: [] }
  const headings = headingsOf(view)
  const words = (key: unknown) => groupWords({ key }, by, headings.get(by.path))
  const at = new Map(view.charted.keys.map((key, i) => [keyOf(key), i]))
  const found = new Map<string, { then: unknown; unit: string; marks: (Mark | null)[] }>()
  for (const group of view.charted.groups) {
    const place = at.get(keyOf(group.key))
    if (place === undefined) continue
    const then = group.then?.[0]
    for (const { unit, says, size } of figures(group, headings)) {
      const id = `${keyOf(then)} ${unit}`
      const series = found.get(id) ?? { then, unit, marks: view.charted.keys.map(() => null) }
      found.set(id, series)
      series.marks[place] = { group, says, size }
    }
  }
  const inner = by.then && headings.get(by.then.path)
  const all = [...found.values()].sort((a, b) => inOrder(inner, a, b) || a.unit.localeCompare(b.unit))
  const units = new Set(all.map((s) => s.unit)).size > 1
  return {
    places: view.charted.keys.map(words),
    series: all.map((s) => ({
      name: [by.then ? groupWords({ key: s.then }, by.then, inner) : '', units ? s.unit : '']
        .filter(Boolean)
        .join(' · '),
      marks: s.marks,
    })),
  }
}

/** The order of what is split: choices in theirs, others by what they are called, without a value last. */
function inOrder(heading: Heading | undefined, a: { then: unknown }, b: { then: unknown }): number {
  const empty = Number((a.then ?? null) === null) - Number((b.then ?? null) === null)
  if (empty || !heading) return empty
  const rank = (v: unknown) => heading.choices?.findIndex((c) => c.key === v) ?? -1
  if (heading.choices) return rank(a.then) - rank(b.then)
  const numeric = typeof a.then === 'number' && typeof b.then === 'number'
  return numeric
    ? Number(a.then) - Number(b.then)
    : format(heading, a.then).localeCompare(format(heading, b.then))
}

/** How the list is looked at where it is narrowed to a group. */
export const narrowed = (look: Look, group: GroupView): Look => ({
  ...look,
  within: group.key ?? null,
  deeper: group.then?.map((k) => k ?? null),
})

/** A value of a field as a place on a scale: days are counted, points in time by the millisecond. */
export function placed(heading: Heading, value: unknown): number | null {
  if (value === null || value === undefined) return null
  if (heading.type === 'money') return Number((value as { amount: string }).amount)
  if (fieldTypes[heading.type].family === 'time') return new Date(String(value)).getTime()
  const n = Number(value)
  return Number.isFinite(n) ? n : null
}
