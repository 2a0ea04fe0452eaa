import type { Band, Op, Page, KnownSearch, Part, PartKind, ShippedView } from '@/api/types'
import { keyFrom, type useBuild } from '../build'
import { drop, put, type Edit } from '../document'
import { beside, carried, type Lies, taken } from '../part/bands'
import { type Copied, pasted, sourcesOf } from '../part/clipboard'
import type { Beginning } from '@/surface/fresh'
import { parts } from '@/surface/parts'

export interface PlacedPart {
  part: Part
  band: number
  column: number
  index: number
  /** The pointer of the pile it lies in. */
  pile: string
}

export function placed(bands: Band[]): PlacedPart[] {
  return bands.flatMap((b, band) =>
    b.columns.flatMap((c, column) =>
      c.parts.map((part, index) => ({
        part,
        band,
        column,
        index,
        pile: `/bands/${band}/columns/${column}/parts`,
      })),
    ),
  )
}

/**
 * Gives the view that a builder arranged on a live table to those who see the table, in the
 * place of the one of that name. The owner is the pointer of what has the bands.
 */
export function shipping(bands: Band[], key: string, view: ShippedView, owner = ''): Op[] {
  const p = placed(bands).find((x) => x.part.key === key)
  if (!p?.part.table) return []
  const views = p.part.table.views ?? []
  const was = views.find((v) => v.label === view.label)
  const next = { ...view, roles: was?.roles }
  return [
    put(
      `${owner}${p.pile}/${p.index}/table/views`,
      was ? views.map((v) => (v === was ? next : v)) : [...views, next],
    ),
  ]
}

const takes = (part: Part, list: string) => sourcesOf(part).includes(list)

/** Adding parts to a page, taking them away, moving them. */
export function partEdits(build: ReturnType<typeof useBuild>, page: () => Page, edit: Edit) {
  const keys = () => [
    ...placed(page().bands).map((p) => p.part.key),
    ...page().searches.map((s) => s.key),
    'person',
    'today',
    'now',
  ]

  function addTo(band: number, column: number, part: Part, search?: KnownSearch): void {
    const first = search ? [put('/searches/-', search)] : []
    if (band < page().bands.length) void edit(...first, put(`/bands/${band}/columns/${column}/parts/-`, part))
    else void edit(...first, put('/bands/-', { columns: [{ parts: [part] }] }))
  }

  /** Adds a part of a kind, which shows what is known. */
  function add(band: number, column: number, kind: PartKind, of?: Beginning['of']): string {
    const part = parts[kind].fresh({ key: (wish) => keyFrom(wish, keys()), of, page: true })
    addTo(band, column, part)
    return part.key
  }

  /** What shows an object's records comes with the search that feeds it. */
  function addFed(
    band: number,
    column: number,
    kind: 'table' | 'figure' | 'chart' | 'calendar',
    objectKey: string,
  ): string {
    const object = build.object(objectKey)!
    const wishes = {
      table: object.plural,
      figure: 'how many ' + object.plural,
      chart: object.plural + ' drawn',
      calendar: object.plural + ' by day',
    }
    const key = keyFrom(wishes[kind], keys())
    const found = keyFrom(object.plural + '_found', [...keys(), key])
    const part = parts[kind].fresh({ key: () => key, of: { path: found, object }, page: true })
    const search = { object: objectKey, where: { all: [] } }
    addTo(band, column, part, { key: found, label: object.plural + ' found', search })
    return key
  }

  function addColumn(band: number): void {
    void edit(put(`/bands/${band}/columns/-`, { parts: [] }))
  }

  /** What fed only this part goes with it. */
  function remove(at: PlacedPart): void {
    const sources = sourcesOf(at.part)
    const others = placed(page().bands).filter((p) => p.part.key !== at.part.key)
    const alone = page().searches.flatMap((s, i) =>
      sources.includes(s.key) && !others.some((p) => takes(p.part, s.key)) ? [i] : [],
    )
    void edit(...taken(page().bands, '', at), ...alone.reverse().map((i) => drop(`/searches/${i}`)))
  }

  const find = (key: string) => placed(page().bands).find((p) => p.part.key === key)

  /** Puts a part where another lies, or at the end of a column; behind the last band it gets one of its own. */
  function carry(key: string, to: string | Lies): void {
    const at = find(key)
    const where = typeof to === 'string' ? find(to) : to
    if (!at || !where) return
    const ops =
      where.band < page().bands.length
        ? carried(page().bands, '', at, where)
        : [put('/bands/-', { columns: [{ parts: [at.part] }] }), ...taken(page().bands, '', at)]
    if (ops.length) void edit(...ops)
  }

  /** Moves a part one place on, into the next column or band where its pile ends. */
  function nudge(key: string, way: 'up' | 'down' | 'left' | 'right'): void {
    const at = find(key)
    const to = at && beside(page().bands, at, way)
    if (to) carry(key, to)
  }

  const end = (band: number, column: number): Lies => ({
    band,
    column,
    index: page().bands[band]?.columns[column]?.parts.length ?? 0,
  })

  /** Puts what was copied at a place, and gives the key of the first part of it. */
  function paste(copied: Copied, at: Lies): string {
    const { band, searches } = pasted(copied, keys())
    const found = searches.map((search) => put('/searches/-', search))
    const parts = band.columns.flatMap((c) => c.parts)
    const into = copied.whole || at.band >= page().bands.length
    const where = into
      ? [
          put(
            `/bands/${Math.min(at.band + (at.band < page().bands.length ? 1 : 0), page().bands.length)}`,
            band,
          ),
        ]
      : parts.map((p, i) => put(`/bands/${at.band}/columns/${at.column}/parts/${at.index + i}`, p))
    void edit(...found, ...where)
    return parts[0]?.key ?? ''
  }

  return { addFed, add, addColumn, remove, carry, nudge, end, paste }
}

export type PartEdits = ReturnType<typeof partEdits>
