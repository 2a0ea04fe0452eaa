import type { Band, Op, Standing } from '@/api/types'
import { drop, moved, put } from '../document'

/** How a band may stand. */
export const standings: { value: Standing | ''; label: string }[] = [
  { value: '', label: 'side by side' },
  { value: 'tabs', label: 'as tabs' },
  { value: 'unfolded', label: 'open, can be folded' },
  { value: 'folded', label: 'folded at first' },
]

/** The shares that a column may have of its band. */
export const widths = [1, 2, 3, 4, 5, 6].map((value) => ({
  value,
  label: value === 1 ? 'one share wide' : `${value} shares wide`,
}))

/** Where a part lies, and how many lie in the same pile. */
export interface Lies {
  band: number
  column: number
  index: number
}

const pile = (owner: string, at: Lies) => `${owner}/bands/${at.band}/columns/${at.column}/parts`

/** Takes a part away, with the column or the band that would be left empty. */
export function taken(bands: Band[], owner: string, at: Lies): Op[] {
  const band = bands[at.band]
  if (band.columns[at.column].parts.length > 1) return [drop(`${pile(owner, at)}/${at.index}`)]
  const where = `${owner}/bands/${at.band}`
  return [drop(band.columns.length > 1 ? `${where}/columns/${at.column}` : where)]
}

/** Puts a part elsewhere, counted while it still lies where it was; none where that is the same place. */
export function carried(bands: Band[], owner: string, from: Lies, to: Lies): Op[] {
  if (from.band === to.band && from.column === to.column) {
    const index = to.index > from.index ? to.index - 1 : to.index
    return index === from.index ? [] : [moved(pile(owner, from), from.index, index)]
  }
  const part = bands[from.band].columns[from.column].parts[from.index]
  return [put(`${pile(owner, to)}/${to.index}`, part), ...taken(bands, owner, from)]
}

/** The place next to a part in a direction: in its pile, or in the column or band beside it. */
export function beside(bands: Band[], at: Lies, key: 'up' | 'down' | 'left' | 'right'): Lies | undefined {
  const band = bands[at.band]
  const count = (b: number, c: number) => bands[b].columns[c].parts.length
  if (key === 'left' || key === 'right') {
    const column = at.column + (key === 'left' ? -1 : 1)
    if (!band.columns[column]) return undefined
    return { ...at, column, index: Math.min(at.index, count(at.band, column)) }
  }
  if (key === 'up') {
    if (at.index > 0) return { ...at, index: at.index - 1 }
    const above = at.band - 1
    if (above < 0) return undefined
    const column = Math.min(at.column, bands[above].columns.length - 1)
    return { band: above, column, index: count(above, column) }
  }
  if (at.index < count(at.band, at.column) - 1) return { ...at, index: at.index + 2 }
  const below = at.band + 1
  if (below >= bands.length) return undefined
  return { band: below, column: Math.min(at.column, bands[below].columns.length - 1), index: 0 }
}
