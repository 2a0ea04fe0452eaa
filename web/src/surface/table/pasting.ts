import type { CellRead, Heading, RowView } from '@/api/types'
import type { Asking } from './asking'
import type { Edits } from './edits'
import type { Line, Table } from './table'

/** One cell that pasting would change. */
export interface PastedCell {
  row: RowView
  heading: Heading
  before: unknown
  value: unknown
  text: string
  problem: string
}

export interface Pasting {
  cells: PastedCell[]
  /** Rows and columns of the block that have no place in the table. */
  leftRows: number
  leftColumns: number
}

/** Reads a block as spreadsheets copy it: tabs, lines, and quotes round cells that hold either. */
export function block(text: string): string[][] {
  const rows: string[][] = [[]]
  let cell = ''
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const c = text[i]
    if (quoted) {
      if (c !== '"') cell += c
      else if (text[i + 1] === '"') cell += text[++i]
      else quoted = false
    } else if (c === '"' && !cell) quoted = true
    else if (c === '\t' || c === '\n' || c === '\r') {
      if (c === '\r' && text[i + 1] === '\n') i++
      rows[rows.length - 1].push(cell)
      cell = ''
      if (c !== '\t') rows.push([])
    } else cell += c
  }
  if (cell || rows[rows.length - 1].length) rows[rows.length - 1].push(cell)
  return rows.filter((r, i) => r.length || i < rows.length - 1)
}

/** What pasting a block at a cell would change, read but not done. */
export async function pasted(
  text: string,
  at: { line: number; column: number },
  table: Table,
  edits: Edits,
  ask: Asking,
): Promise<Pasting> {
  const rows = block(text)
  const lines = table.lines.value.slice(at.line).filter((l): l is Line & { kind: 'row' } => l.kind === 'row')
  const columns = table.columns.value.slice(at.column)
  const wide = Math.max(...rows.map((r) => r.length))
  const asked: { row: RowView; heading: Heading; before: unknown; text: string }[] = []
  rows.slice(0, lines.length).forEach((cells, r) =>
    cells.slice(0, columns.length).forEach((text, c) => {
      const heading = columns[c]
      const row = lines[r].row
      asked.push({ row, heading, before: edits.valueOf(row, heading, at.column + c), text })
    }),
  )
  const open = asked.filter((a) => a.heading.editable)
  const read = open.length ? await ask.read(open.map((a) => ({ path: a.heading.path, text: a.text }))) : []
  const means = new Map<(typeof asked)[number], CellRead>(open.map((a, i) => [a, read[i]]))
  return {
    cells: asked.map((a) => {
      const m = means.get(a)
      const problem = m ? (m.problem ?? '') : `${a.heading.label} cannot be changed here`
      return { ...a, value: m?.value ?? null, problem }
    }),
    leftRows: Math.max(0, rows.length - lines.length),
    leftColumns: Math.max(0, wide - columns.length),
  }
}
