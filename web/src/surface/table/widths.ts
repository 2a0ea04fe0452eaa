import type { Heading, RowView } from '@/api/types'
import { fieldTypes, format } from '@/fields/fields'

const letter = 8.6
const margin = 26
const dot = 18

/** How wide a column is to be for its heading and the first rows to be read, in pixels. */
export function fitting(heading: Heading, index: number, rows: RowView[]): number {
  let letters = heading.label.length + 4
  for (const row of rows.slice(0, 50)) {
    const mark = row.marks?.find((m) => m.column === heading.path || (index === 0 && !m.column))
    const marked = mark ? mark.says.length + 5 : 0
    letters = Math.max(letters, format(heading, row.cells[index]).length + marked)
  }
  const beside = heading.choices?.some((c) => c.colour) ? dot : 0
  return Math.round(
    Math.min(Math.max(letters * letter + margin + beside, 72), fieldTypes[heading.type].roomy ? 380 : 250),
  )
}
