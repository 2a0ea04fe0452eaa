import { nextTick, ref, watch, type Ref as VueRef } from 'vue'
import type { Line } from './table'

/** What keys do to a cell beyond moving to it. */
export interface GridKeys {
  /** Enter, F2 or a letter on a cell; true when something was done with it. */
  cell(line: number, column: number, event: KeyboardEvent): boolean
  head(column: number, event: KeyboardEvent): boolean
}

/** In so many frames a table comes to rest that was scrolled far. */
const restsFor = 8

const drawnWithin = 60 // frames

/**
 * The keyboard of a grid, after the pattern of the ARIA Authoring Practices: one cell has
 * the focus, arrows move it. Line -1 is the head.
 */
export function useGrid(
  root: VueRef<HTMLElement | null>,
  lines: () => Line[],
  columns: () => number,
  scrollTo: (line: number, column: number) => void,
  keys: GridKeys,
) {
  const at = ref({ line: 0, column: 0 })

  // The keyboard stays with its line when others come in above it, or the rows of a group.
  let held = ''
  watch(at, () => (held = lines()[at.value.line]?.id ?? ''), { flush: 'sync' })
  watch(
    lines,
    (now) => {
      if (!held || now[at.value.line]?.id === held) return
      const line = now.findIndex((l) => l.id === held)
      if (line < 0) return
      if (root.value?.contains(document.activeElement)) void focus(line, at.value.column)
      else at.value = { ...at.value, line }
    },
    { flush: 'sync' },
  )

  async function focus(line: number, column: number): Promise<void> {
    // What is yet to be read cannot hold the keyboard: it gives way to what was read.
    const last = lines().findLastIndex((l) => l.kind !== 'more')
    at.value = {
      line: Math.min(Math.max(line, -1), last),
      column: Math.min(Math.max(column, 0), columns() - 1),
    }
    const there = () =>
      root.value?.querySelector<HTMLElement>(
        `[data-line="${at.value.line}"] [data-column="${onGroup() ? 0 : at.value.column}"]`,
      )
    const nowhere = () => [document.body, root.value].includes(document.activeElement as HTMLElement)
    // The cell that had the keyboard may go out of the document; keys pressed meanwhile count all the same.
    if (!there() && root.value?.contains(document.activeElement)) root.value.focus({ preventScroll: true })
    scrollTo(at.value.line, at.value.column)
    await nextTick()
    // A line that is far away is drawn some frames after it was scrolled to, and may go again until the
    // table has come to rest.
    const wanted = at.value.line
    let rests = 0
    let had: HTMLElement | undefined
    /** The cell that had the keyboard went, and nobody took it elsewhere since. */
    const lost = () => had && !had.isConnected && nowhere()
    for (let frame = 0; frame < drawnWithin && rests < restsFor; frame++) {
      const cell = there()
      if (!cell) {
        rests = 0
        if (lost()) root.value?.focus({ preventScroll: true })
        scrollTo(at.value.line, at.value.column)
      } else {
        rests++
        if (!had || lost()) {
          had = cell
          cell.focus({ preventScroll: true })
          cell.scrollIntoView({ block: 'nearest', inline: 'nearest' })
        }
      }
      await new Promise((done) => requestAnimationFrame(done))
      if (at.value.line !== wanted) return
    }
  }

  const onGroup = () => at.value.line >= 0 && lines()[at.value.line]?.kind !== 'row'

  function key(event: KeyboardEvent): void {
    const { line, column } = at.value
    const target = event.target as HTMLElement
    if (target.closest('input, textarea, select, [role=combobox], .editing')) return
    const far = event.ctrlKey || event.metaKey
    if (line === -1 ? keys.head(column, event) : keys.cell(line, column, event)) {
      event.preventDefault()
      event.stopPropagation()
      return
    }
    const moves: Record<string, [number, number]> = {
      ArrowDown: [line + 1, column],
      ArrowUp: [line - 1, column],
      ArrowLeft: [line, column - 1],
      ArrowRight: [line, column + 1],
      PageDown: [line + 10, column],
      PageUp: [Math.max(line - 10, 0), column],
      Home: far ? [0, 0] : [line, 0],
      End: far ? [lines().length - 1, columns() - 1] : [line, columns() - 1],
    }
    const to = moves[event.key]
    if (!to || event.altKey) return
    event.preventDefault()
    event.stopPropagation()
    void focus(...to)
  }

  return { at, focus, key }
}
