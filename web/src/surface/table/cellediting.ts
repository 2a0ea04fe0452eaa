import { command, take } from '@/frame/keys'
import { shallowRef, type Ref as VueRef } from 'vue'
import type { Heading, Ref, RowView } from '@/api/types'
import { fieldTypes, format } from '@/fields/fields'
import type { Asking } from './asking'
import type { Edits } from './edits'
import type { useGrid } from './grid'
import { pasted, type PastedCell, type Pasting } from './pasting'
import type { Table } from './table'

/** Where the keyboard goes after a cell. */
export type Move = 'down' | 'right' | 'left' | 'stay'

/** Changing the cells of a grid: typing, filling down, pasting. */
export function useCellEditing(
  root: VueRef<HTMLElement | null>,
  table: Table,
  edits: Edits,
  ask: Asking,
  selects: () => boolean,
  grid: () => ReturnType<typeof useGrid>,
) {
  const editing = shallowRef<{
    row: RowView
    line: number
    column: number
    heading: Heading
    cell: HTMLElement
    typed: string
  } | null>(null)

  /** Begins to edit a cell, with what was typed if anything was. */
  function edit(line: number, column: number, typed = ''): boolean {
    const at = table.lines.value[line]
    const heading = table.columns.value[column]
    const cell = root.value?.querySelector<HTMLElement>(`[data-line="${line}"] [data-column="${column}"]`)
    if (at?.kind !== 'row' || !heading?.editable || !cell) return false
    editing.value = { row: at.row, line, column, heading, cell, typed }
    return true
  }

  function edited(value: unknown, move: Move): void {
    const e = editing.value
    if (!e) return
    editing.value = null
    edits.set([{ row: e.row, heading: e.heading, value: value === '' ? null : value }])
    const to = steps[move]
    const now = table.lines.value.findIndex((l) => l.kind === 'row' && l.row.id === e.row.id)
    // A row that went to another group keeps the keyboard.
    if (now !== e.line) void grid().focus(now, e.column)
    else void grid().focus(e.line + to[0], e.column + to[1])
  }

  const steps: Record<Move, [number, number]> = { down: [1, 0], right: [0, 1], left: [0, -1], stay: [0, 0] }

  function cancelled(move: Move): void {
    const e = editing.value
    editing.value = null
    if (e) void grid().focus(e.line + steps[move][0], e.column + steps[move][1])
  }

  /** Takes over the value of the cell above. */
  function fillDown(line: number, column: number): boolean {
    const above = table.lines.value[line - 1]
    const at = table.lines.value[line]
    const heading = table.columns.value[column]
    if (above?.kind !== 'row' || at?.kind !== 'row' || !heading?.editable) return false
    edits.set([{ row: at.row, heading, value: edits.valueOf(above.row, heading, column) }])
    void grid().focus(line + 1, column)
    return true
  }

  const pasting = shallowRef<Pasting | null>(null)

  async function paste(event: ClipboardEvent): Promise<void> {
    const text = event.clipboardData?.getData('text/plain')
    const { line, column } = grid().at.value
    if (!text || line < 0 || editing.value || !table.columns.value.some((c) => c.editable)) return
    event.preventDefault()
    pasting.value = await pasted(text, { line, column }, table, edits, ask)
  }

  function takePasted(cells: PastedCell[]): void {
    edits.set(cells)
    pasting.value = null
    void grid().focus(grid().at.value.line, grid().at.value.column)
  }

  /** The cell with the focus is copied as it is shown. */
  function copy(event: ClipboardEvent): void {
    const at = table.lines.value[grid().at.value.line]
    const heading = table.columns.value[grid().at.value.column]
    if (at?.kind !== 'row' || editing.value || String(getSelection())) return
    event.preventDefault()
    const value = edits.valueOf(at.row, heading, grid().at.value.column)
    event.clipboardData?.setData('text/plain', format(heading, value))
  }

  function onEditKey(line: number, column: number, event: KeyboardEvent): boolean {
    switch (command(event)) {
      case 'save':
        if (edits.count.value) void edits.save()
        return true
      case 'undo':
        return edits.undo()
      case 'fill':
        return fillDown(line, column)
    }
    if (event.ctrlKey || event.metaKey || event.isComposing) return false
    if (event.key === 'F2') return edit(line, column)
    if (event.key === 'Enter' && table.columns.value[column]?.editable && !selects())
      return edit(line, column)
    if (event.key === 'Delete') {
      const at = table.lines.value[line]
      const heading = table.columns.value[column]
      if (at?.kind !== 'row' || !heading?.editable || heading.required) return false
      edits.set([{ row: at.row, heading, value: null }])
      return true
    }
    if (event.key.length !== 1 || event.key === ' ' || event.altKey) return false
    const type = table.columns.value[column]?.type
    if (!edit(line, column, event.key)) return false
    take(event)
    return !type || !fieldTypes[type].letters // where it does, the letter is left to the input
  }

  /** The records a reference may point at while its row is as it was entered. */
  function find(text: string): Promise<Ref[]> {
    const e = editing.value!
    const values = edits.rows.value.get(e.row.id)?.values ?? {}
    return ask.options(e.heading.path, text, { id: e.row.id, values })
  }

  return { find, editing, edit, edited, cancelled, pasting, paste, takePasted, copy, key: onEditKey }
}
