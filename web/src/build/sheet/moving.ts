import type { Op } from '@/api/types'
import { drop, moved, put } from '../document'
import type { SheetRow } from './rows'

export type Way = 'up' | 'down' | 'in' | 'out'

const ownerOf = (list: string) =>
  list.replace(/\/(branch\/(ways\/\d+\/steps|otherwise)|repeat\/steps|if_fails)$/, '')

/** A list of steps: that of a branch's way, or the one a branch stands in. */
interface List {
  pointer: string
  count: number
}

/**
 * How a step goes to another place: within its list, from way to way of a branch, out of the
 * branch at either end, or into the branch beside it. Nothing when there is no such place.
 */
export function stepMoves(rows: SheetRow[], row: SheetRow, way: Way): Op[] {
  const step = row.step
  if (!step) return []
  const listed = (pointer: string): List => ({
    pointer,
    count: rows.filter((r) => r.step && r.siblings === pointer).length,
  })
  const waysOf = (branch: string) =>
    rows.filter((r) => r.way && ownerOf(r.siblings) === branch).map((r) => listed(r.siblings))
  const to = (list: List, index: number): Op[] => [
    drop(row.pointer),
    // A branch that has no steps otherwise has no list of them.
    list.count ? put(`${list.pointer}/${index}`, step) : put(list.pointer, [step]),
  ]
  const inside = row.siblings !== '/steps'
  const branch = inside ? rows.find((r) => r.pointer === ownerOf(row.siblings)) : undefined

  const within = row.index + (way === 'up' ? -1 : 1)
  if ((way === 'up' || way === 'down') && within >= 0 && within < row.count)
    return [moved(row.siblings, row.index, within)]
  if (way === 'in') {
    const beside = (by: number) =>
      rows.find(
        (r) =>
          r.siblings === row.siblings &&
          r.index === row.index + by &&
          (r.step?.branch || r.step?.repeat || r.step?.if_fails),
      )
    const above = beside(-1)
    if (above) {
      const last = waysOf(above.pointer).at(-1)
      return last ? to(last, last.count) : []
    }
    const below = beside(1)
    const first = below && waysOf(below.pointer)[0]
    // The step above it is gone by then.
    const shifted = first && { ...first, pointer: first.pointer.replace(below.pointer, row.pointer) }
    return shifted ? to(shifted, 0) : []
  }
  if (!branch) return []
  const around = listed(branch.siblings)
  if (way === 'out') return to(around, branch.index + 1)
  const ways = waysOf(branch.pointer)
  const at = ways.findIndex((w) => w.pointer === row.siblings)
  const next = ways[at + (way === 'up' ? -1 : 1)]
  if (next) return to(next, way === 'up' ? next.count : 0)
  return to(around, way === 'up' ? branch.index : branch.index + 1)
}
