import type { Condition, FigureDef, KnownSearch, ObjectDef, Page, Part, Search } from '@/api/types'
import { columns } from '@/surface/fresh'
import { parts } from '@/surface/parts'
import { keyFrom, type useBuild } from '../build'

/** What a new page begins with: ordinary parts that can be changed afterwards. */
export type Beginning = 'empty' | 'list' | 'add' | 'edit' | 'record' | 'dashboard'

type Body = Pick<Page, 'searches' | 'bands' | 'record'>
type Build = ReturnType<typeof useBuild>

interface Made {
  words: string
  /** What the page is called unless the builder calls it something else. */
  label: (object: ObjectDef) => string
  body: (object: ObjectDef, build: Build) => Body
}

/** The parts of a page as it is made, each with a key of its own. */
function making() {
  const taken = ['record', 'person', 'today', 'now']
  const searches: KnownSearch[] = []
  function key(wish: string): string {
    const made = keyFrom(wish, taken)
    taken.push(made)
    return made
  }
  /** A search, and what it finds. */
  function search(object: ObjectDef, label: string, where: Condition, order?: Search['order']): string {
    const found = key(label)
    searches.push({ key: found, label, search: { object: object.key, where, order } })
    return found
  }
  /** A table of an object's records, with the search that feeds it. */
  function table(object: ObjectDef, label: string, field?: string): Part {
    const shown = key(label)
    const of: Condition[] = field ? [{ field, op: 'is', value: { expression: 'record' } }] : []
    const found = search(object, label + ' found', { all: of })
    const part = parts.table.fresh({ key: () => shown, of: { path: found, object }, page: true })
    // What all of them have in common need not be read in each row.
    const wanted = columns(object, true).filter((c) => c.path !== field)
    return { ...part, label, table: { ...part.table!, select: 'none', columns: wanted } }
  }
  return { key, table, search, searches }
}

/** The days of this month, and of the one before, as a condition on a field. */
const inMonth = (field: string, before: number): Condition => {
  const first = before ? `addMonths(firstOfMonth(today), -${before})` : 'firstOfMonth(today)'
  return {
    all: [
      { field, op: 'between', value: { expression: first }, to: { expression: `lastOfMonth(${first})` } },
    ],
  }
}

const column = (...all: Part[]) => ({ parts: all })

export const beginnings: Record<Exclude<Beginning, 'empty'>, Made> = {
  list: {
    words: 'a list of them',
    label: (o) => o.plural,
    body(object) {
      const { table, searches } = making()
      const list = table(object, object.plural)
      return { searches, bands: [{ columns: [column(list)] }] }
    },
  },
  add: {
    words: 'a form that adds one',
    label: (o) => `New ${o.label.toLowerCase()}`,
    body(object) {
      const { key } = making()
      const form = parts.form.fresh({ key, of: { path: '', object } })
      return {
        searches: [],
        bands: [{ columns: [column({ ...form, form: { ...form.form!, columns: 2, next: true } })] }],
      }
    },
  },
  edit: {
    words: 'a list, and a form that changes the one chosen',
    label: (o) => `Change ${o.plural.toLowerCase()}`,
    body(object) {
      const { key, table, searches } = making()
      const list = table(object, object.plural)
      list.table!.select = 'one'
      const form = parts.form.fresh({ key, of: { path: `${list.key}.selected`, object } })
      return { searches, bands: [{ columns: [column(list), column({ ...form, label: object.label })] }] }
    },
  },
  dashboard: {
    words: 'figures over them, a chart, and the latest of them',
    label: (o) => `${o.plural} at a glance`,
    body(object) {
      const { key, search, searches } = making()
      const timed =
        object.fields.find((f) => f.type === 'date_time') ?? object.fields.find((f) => f.type === 'date')
      const latest = timed && [{ path: timed.key, desc: true }]
      const all = search(object, object.plural + ' found', { all: [] }, latest)
      const figure = (label: string, figure: FigureDef): Part => ({
        key: key(label),
        kind: 'figure',
        label,
        figure,
      })
      const figures = [figure(object.plural, { source: all })]
      const day = object.fields.find((f) => f.type === 'date')
      if (day) {
        const now = search(object, `${day.label} this month`, inMonth(day.key, 0))
        const before = search(object, `${day.label} last month`, inMonth(day.key, 1))
        figures.push(
          figure(`${day.label}: this month`, { source: now, against: before, called: 'last month' }),
        )
      }
      for (const f of object.fields.filter((f) => f.type === 'money').slice(0, 4 - figures.length))
        figures.push(figure(f.label, { source: all, path: f.key, of: 'sum' }))
      const chart = parts.chart.fresh({ key, of: { path: all, object } })
      const drawn = chart.chart?.by
      const path = drawn ? `${chart.key}.matching` : all
      const list = parts.table.fresh({ key, of: { path, object }, page: true })
      return {
        searches,
        bands: [
          { columns: figures.map((f) => column(f)) },
          ...(drawn ? [{ columns: [column(chart)] }] : []),
          { columns: [column({ ...list, table: { ...list.table!, select: 'none' } })] },
        ],
      }
    },
  },
  record: {
    words: 'how one of them is seen, with all that belongs to it',
    label: (o) => o.label,
    body(object, build) {
      const { key, table, searches } = making()
      const details = parts.details.fresh({ key, of: { path: 'record', object }, page: true })
      const all = object.fields.map((f) => ({ path: f.key }))
      const referrers = build.referrers(object.key)
      const related = referrers.map(({ object: from, field }) => {
        const several = referrers.filter((r) => r.object.key === from.key).length > 1
        return table(
          from,
          several ? `${from.plural} by ${field.label.toLowerCase()}` : from.plural,
          field.key,
        )
      })
      const history = parts.history.fresh({ key, of: { path: 'record', object } })
      return {
        record: { object: object.key },
        searches,
        bands: [
          {
            columns: [
              column({ ...details, label: '', details: { ...details.details!, fields: all } }),
              column(history),
            ],
          },
          ...related.map((part) => ({ columns: [column(part)] })),
        ],
      }
    },
  },
}
