import { inject, provide, ref, shallowRef, type InjectionKey, type Ref, type ShallowRef } from 'vue'
import type { Heading, RowOutcome, RowView } from '@/api/types'
import { useUnsaved } from '../unsaved'

/** What was entered in one row, and what stood there before. */
export interface RowEdit {
  row: RowView
  /** The columns that the row's cells were read by. */
  paths: string[]
  values: Record<string, unknown>
  before: Record<string, unknown>
}

/** One cell that was changed, and what stood there as stored and as shown. */
export interface Done {
  row: RowView
  heading: Heading
  stored: unknown
  before: unknown
}

/** The cells of one table that were changed and are not saved yet. */
export interface EditState {
  rows: ShallowRef<Map<number, RowEdit>>
  outcomes: ShallowRef<Map<number, RowOutcome>>
  failed: Ref<string>
  /** What came of saving, where nothing is wrong. */
  told: Ref<string>
  saving: Ref<boolean>
  /** What was done, for it to be undone step by step. */
  done: Done[][]
}

type Kept = Map<string, EditState>
const key: InjectionKey<Kept> = Symbol('kept edits')

export function makeEdits(): EditState {
  return {
    rows: shallowRef(new Map<number, RowEdit>()),
    outcomes: shallowRef(new Map<number, RowOutcome>()),
    failed: ref(''),
    told: ref(''),
    saving: ref(false),
    done: [],
  }
}

/**
 * Keeps what is changed in the tables below: one may go out of sight with the row it lies
 * in, or for another object that is looked at, and comes back with its changes.
 */
export function keepEdits(): (table: string) => EditState {
  const outer = inject(key, null)
  const kept: Kept = outer ?? new Map()
  if (!outer) {
    provide(key, kept)
    useUnsaved(() => [...kept.values()].reduce((sum, state) => sum + state.rows.value.size, 0))
  }
  return (table) => {
    const state = kept.get(table) ?? makeEdits()
    kept.set(table, state)
    return state
  }
}
