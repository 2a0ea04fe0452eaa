import type { Band, Op, Page, Part, PageSearch, ShippedView } from '@/api/types'
import { fieldTypes, isShort } from '@/fields/fields'
import { keyFrom, type useBuild } from '../build'
import { drop, moved, put, type Edit } from '../document'

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

/** Adding parts to a page, taking them away, moving them. */
export function partEdits(build: ReturnType<typeof useBuild>, page: () => Page, edit: Edit) {
  const taken = () => [
    ...placed(page().bands).map((p) => p.part.key),
    ...page().searches.map((s) => s.key),
    'person',
    'today',
    'now',
  ]

  function addTo(band: number, column: number, part: Part, search?: PageSearch): void {
    const first = search ? [put('/searches/-', search)] : []
    if (band < page().bands.length) void edit(...first, put(`/bands/${band}/columns/${column}/parts/-`, part))
    else void edit(...first, put('/bands/-', { columns: [{ parts: [part] }] }))
  }

  /** A table of an object's records comes with the search that feeds it. */
  function addTable(band: number, column: number, objectKey: string): string {
    const object = build.object(objectKey)!
    const key = keyFrom(object.plural, taken())
    const found = keyFrom(key + '_found', [...taken(), key])
    const plain = object.fields.filter((f) => isShort(f.type))
    const columns = [object.label_field, ...plain.map((f) => f.key).filter((k) => k !== object.label_field)]
    const texts = object.fields.filter((f) => fieldTypes[f.type].worded && isShort(f.type)).map((f) => f.key)
    addTo(
      band,
      column,
      {
        key,
        kind: 'table',
        label: object.plural,
        table: {
          source: found,
          select: 'one',
          columns: columns.slice(0, 7).map((path) => ({ path })),
          keyword: texts.slice(0, 3),
        },
      },
      { key: found, label: object.plural + ' found', search: { object: objectKey, where: { all: [] } } },
    )
    return key
  }

  function add(band: number, column: number, kind: 'input' | 'text'): string {
    const key = keyFrom(kind === 'input' ? 'input' : 'text', taken())
    addTo(
      band,
      column,
      kind === 'input'
        ? { key, kind, label: 'New input', input: { type: 'text' } }
        : { key, kind, text: 'A text' },
    )
    return key
  }

  /** Details of the record that a table gives. */
  function addDetails(band: number, column: number, source: string, objectKey: string): string {
    const key = keyFrom('details', taken())
    const fields = (build.object(objectKey)?.fields ?? []).slice(0, 8).map((f) => ({ path: f.key }))
    addTo(band, column, { key, kind: 'details', label: 'Details', details: { source, fields } })
    return key
  }

  function addColumn(band: number): void {
    void edit(put(`/bands/${band}/columns/-`, { parts: [] }))
  }

  /** What fed only this part goes with it. */
  function remove(at: PlacedPart): void {
    const source = at.part.table?.source
    const others = placed(page().bands).filter((p) => p.part.key !== at.part.key)
    const fed = page().searches.findIndex((s) => s.key === source)
    const alone = fed >= 0 && !others.some((p) => p.part.table?.source === source)
    const band = page().bands[at.band]
    const last = band.columns[at.column].parts.length === 1
    const gone = !last
      ? drop(`${at.pile}/${at.index}`)
      : band.columns.length > 1
        ? drop(`/bands/${at.band}/columns/${at.column}`)
        : drop(`/bands/${at.band}`)
    void edit(gone, ...(alone ? [drop(`/searches/${fed}`)] : []))
  }

  function move(at: PlacedPart, by: number): void {
    void edit(moved(at.pile, at.index, at.index + by))
  }

  return { addTable, add, addDetails, addColumn, remove, move }
}

export type PartEdits = ReturnType<typeof partEdits>
