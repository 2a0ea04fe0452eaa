import { computed, triggerRef } from 'vue'
import { titleOf } from '@/api/client'
import type { Heading, RowView } from '@/api/types'
import type { Asking } from './asking'
import type { EditState, RowEdit } from './keptedits'
import { bare, same } from './same'
import type { Table } from './table'

/** Cells changed and not saved yet. They are saved together or taken back one by one. */
export function useEdits(table: Table, ask: Asking, state: EditState) {
  const { rows, outcomes, failed, told, saving } = state

  const count = computed(() => rows.value.size)

  const has = (row: RowView, heading: Heading) => heading.path in (rows.value.get(row.id)?.values ?? {})

  function valueOf(row: RowView, heading: Heading, index: number): unknown {
    const edit = rows.value.get(row.id)
    return edit && heading.path in edit.values ? edit.values[heading.path] : row.cells[index]
  }

  function put(row: RowView, heading: Heading, stored: unknown, value: unknown): void {
    const paths = table.columns.value.map((c) => c.path)
    const edit = rows.value.get(row.id) ?? { row, paths, values: {}, before: {} }
    if (same(bare(value), bare(stored))) {
      delete edit.values[heading.path]
      delete edit.before[heading.path]
    } else {
      // What came in below a value entered before was not seen.
      if (!(heading.path in edit.values)) edit.before[heading.path] = bare(stored) ?? null
      edit.values[heading.path] = value ?? null
    }
    if (Object.keys(edit.values).length) rows.value.set(row.id, edit)
    else rows.value.delete(row.id)
    outcomes.value.delete(row.id)
    triggerRef(rows)
    triggerRef(outcomes)
  }

  /** Several cells at once count as one step to undo. */
  function set(cells: { row: RowView; heading: Heading; value: unknown }[]): void {
    const step = cells.map(({ row, heading, value }) => {
      const index = table.columns.value.findIndex((c) => c.path === heading.path)
      const stored = row.cells[index]
      const before = valueOf(row, heading, index)
      put(row, heading, stored, value)
      return { row, heading, stored, before }
    })
    state.done.push(step)
    failed.value = ''
  }

  function undo(): boolean {
    const step = state.done.pop()
    // The columns may have another order by now, so what is stored was noted then.
    for (const { row, heading, stored, before } of step ?? []) put(row, heading, stored, before)
    return !!step
  }

  function clear(): void {
    rows.value = new Map()
    outcomes.value = new Map()
    state.done = []
    failed.value = ''
    told.value = ''
  }

  /** What was saved is no change any more; what was entered meanwhile still is one. */
  function settled(saved: { id: number; values: Record<string, unknown> }[]): void {
    const left = new Map<number, RowEdit>()
    for (const [id, e] of rows.value) {
      const was = saved.find((s) => s.id === id)?.values ?? {}
      const later = Object.entries(e.values).filter(([k, v]) => !(k in was && same(bare(v), was[k])))
      if (!later.length) continue
      const before = Object.fromEntries(later.map(([k]) => [k, k in was ? was[k] : e.before[k]]))
      left.set(id, { ...e, values: Object.fromEntries(later), before })
    }
    clear()
    rows.value = left
  }

  async function save(): Promise<boolean> {
    if (!rows.value.size || saving.value) return false
    saving.value = true
    failed.value = ''
    told.value = ''
    try {
      const entered = [...rows.value].map(([id, e]) => ({
        id,
        values: { ...e.values },
        before: { ...e.before },
      }))
      const sent = entered.map((e) => ({
        ...e,
        values: Object.fromEntries(Object.entries(e.values).map(([k, v]) => [k, bare(v)])),
      }))
      const answer = await ask.save(sent)
      if (answer.put_back) {
        outcomes.value = new Map()
        told.value = 'These rows can be saved. In a rehearsal nothing stays, so they were put back.'
        return false
      }
      if (answer.saved) {
        if (!(await table.again())) table.saved(entered)
        settled(sent)
        return true
      }
      outcomes.value = new Map(answer.rows.map((r) => [r.id, r]))
      const wrong = answer.rows.filter((r) => r.problems?.length || r.clashes?.length).length
      failed.value = `${wrong} of ${answer.rows.length} rows cannot be saved as they are, so none was. What to mend is marked.`
    } catch (error) {
      failed.value = titleOf(error)
    } finally {
      saving.value = false
    }
    return false
  }

  /** Somebody else's value is taken, or one's own is to stand in its place. */
  function settle(id: number, field: string, theirs: unknown, mine: boolean): void {
    const edit = rows.value.get(id)
    if (!edit) return
    if (mine) edit.before[field] = bare(theirs) ?? null
    else {
      delete edit.values[field]
      delete edit.before[field]
      if (!Object.keys(edit.values).length) rows.value.delete(id)
    }
    const outcome = outcomes.value.get(id)
    if (outcome) {
      const clashes = outcome.clashes?.filter((c) => c.field !== field)
      outcomes.value.set(id, { ...outcome, clashes })
    }
    triggerRef(rows)
    triggerRef(outcomes)
    if (!mine) void table.again()
  }

  /** What is wrong with a cell, or with its row as a whole for the first of its changes. */
  function problem(id: number, path: string): string {
    const outcome = outcomes.value.get(id)
    if (!outcome) return ''
    const first = Object.keys(rows.value.get(id)?.values ?? {})[0] === path
    return (outcome.problems ?? [])
      .filter((p) => p.pointer === '/' + path || (!p.pointer && first))
      .map((p) => p.text)
      .join('; ')
  }

  const clash = (id: number, path: string) =>
    outcomes.value.get(id)?.clashes?.find((c) => c.field === path) ?? null

  return {
    rows,
    outcomes,
    count,
    failed,
    told,
    saving,
    has,
    valueOf,
    set,
    undo,
    clear,
    save,
    settle,
    problem,
    clash,
  }
}

export type Edits = ReturnType<typeof useEdits>
