import type { KnownSearch, ObjectDef, Page, Part } from '@/api/types'
import { columns } from '@/surface/fresh'
import { parts } from '@/surface/parts'
import { keyFrom, type useBuild } from '../build'

/** What a new page begins with: ordinary parts that can be changed afterwards. */
export type Beginning = 'empty' | 'list' | 'add' | 'edit' | 'record'

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
  /** A table of an object's records, with the search that feeds it. */
  function table(object: ObjectDef, label: string, field?: string): Part {
    const shown = key(label)
    const found = key(shown + '_found')
    const of = { field: field ?? '', op: 'is' as const, value: { expression: 'record' } }
    const where = { all: field ? [of] : [] }
    searches.push({ key: found, label: label + ' found', search: { object: object.key, where } })
    const part = parts.table.fresh({ key: () => shown, of: { path: found, object }, page: true })
    // What all of them have in common need not be read in each row.
    const wanted = columns(object, true).filter((c) => c.path !== field)
    return { ...part, label, table: { ...part.table!, select: 'none', columns: wanted } }
  }
  return { key, table, searches }
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
