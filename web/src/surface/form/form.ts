import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { ProblemError, titleOf } from '@/api/client'
import { latest } from '@/api/latest'
import type { FieldProblem, FormView } from '@/api/types'
import { same } from '../table/same'
import { mayLeave } from '../unsaved'

type Values = Record<string, unknown>

/** What is entered for a record, over what is stored of it. */
export interface Editing {
  id: number
  values: Values
}

/** Where a record is read and saved. */
export interface FormRecords {
  form(id: number): Promise<FormView>
  add(values: Values): Promise<FormView>
  change(id: number, values: Values, before: Values): Promise<FormView>
  fit(editing: Editing): Promise<FieldProblem[]>
}

/** A record being edited: what is stored, what was entered over it, what is wrong with it. */
export function useRecordForm(records: FormRecords) {
  const view = shallowRef<FormView | null>(null)
  const entered = ref<Record<string, unknown>>({})
  const problems = ref<Record<string, string>>({})
  const theirs = ref<{ field: string; value: unknown } | null>(null)
  const failed = ref('')
  const saving = ref(false)
  const question = latest()
  // What stood there when something was first entered over it.
  let seen: Record<string, unknown> = {}
  const dirty = computed(() => Object.keys(entered.value).length > 0)

  /** Asks before what was entered is left for another record. */
  const mayGo = () => mayLeave(dirty.value ? 1 : 0)

  function take(next: FormView): void {
    view.value = next
    entered.value = {}
    seen = {}
    problems.value = {}
    theirs.value = null
    failed.value = ''
  }

  /** Gently leaves alone what somebody began to enter meanwhile. */
  async function load(id: number, gently = false): Promise<void> {
    const isLatest = question.ask()
    try {
      const next = await records.form(id)
      if (!isLatest() || (gently && dirty.value)) return
      // Something may have been entered while it was read.
      if ((await mayGo()) && isLatest()) take(next)
    } catch (error) {
      if (!isLatest()) return
      if (!dirty.value) view.value = null
      failed.value = titleOf(error)
    }
  }

  const value = (field: string): unknown => entered.value[field] ?? stored(field)

  function stored(field: string): unknown {
    if (field in entered.value) return entered.value[field]
    return view.value?.values[field] ?? null
  }

  const check = useDebounceFn(async () => {
    if (!view.value) return
    const values = entered.value
    try {
      const found = await records.fit({ id: view.value.id, values })
      if (entered.value !== values) return
      for (const p of found) problems.value[p.pointer.slice(1)] = p.text
    } catch {
      // what does not fit is said when the record is saved
    }
  }, 250)

  function set(field: string, next: unknown): void {
    const before = view.value?.values[field] ?? null
    const now = next ?? null
    const rest = { ...entered.value }
    if (view.value?.id && JSON.stringify(now) === JSON.stringify(before)) delete rest[field]
    else {
      rest[field] = now
      if (!(field in entered.value)) seen[field] = before
    }
    entered.value = rest
    problems.value = {}
    if (!theirs.value) failed.value = ''
    void check()
  }

  async function save(): Promise<boolean> {
    if (!view.value || saving.value) return false
    saving.value = true
    failed.value = ''
    problems.value = {}
    const { id, values, fixed } = view.value
    const sent = entered.value
    const blank = Object.fromEntries(Object.entries(values).filter(([k]) => !fixed.includes(k)))
    try {
      const before = Object.fromEntries(Object.keys(sent).map((k) => [k, seen[k]]))
      const next = id ? await records.change(id, sent, before) : await records.add({ ...blank, ...sent })
      if (view.value?.id !== id) return true // somebody went on to another record
      // What was entered meanwhile is not saved yet.
      const since = Object.entries({ ...before, ...entered.value }).filter(
        ([k, v]) => !(k in sent && same(v, sent[k])),
      )
      const over = Object.fromEntries(since.map(([k]) => [k, k in sent ? sent[k] : seen[k]]))
      take(next)
      entered.value = Object.fromEntries(since)
      seen = over
      return true
    } catch (error) {
      if (view.value?.id === id) refuse(error)
      return false
    } finally {
      saving.value = false
    }
  }

  function refuse(error: unknown): void {
    failed.value = titleOf(error)
    if (!(error instanceof ProblemError)) return
    const p = error.problem
    if (p.type === 'meanwhile' && p.clash)
      theirs.value = { field: p.clash.pointer.slice(1), value: p.clash.theirs }
    for (const one of p.problems ?? []) if (one.pointer) problems.value[one.pointer.slice(1)] = one.text
    if (Object.keys(problems.value).length) failed.value = 'Please look again at what is marked.'
  }

  /** Theirs stands, or ours is saved over it. */
  function settle(ours: boolean): Promise<boolean> | void {
    const clash = theirs.value
    if (!clash || !view.value) return
    view.value = { ...view.value, values: { ...view.value.values, [clash.field]: clash.value } }
    theirs.value = null
    failed.value = ''
    seen[clash.field] = clash.value
    if (ours) return save()
    set(clash.field, clash.value)
  }

  const reset = () => view.value && take(view.value)

  /** There is no record any more. */
  function close(): void {
    question.ask()
    view.value = null
    entered.value = {}
  }

  return {
    view,
    entered,
    problems,
    theirs,
    failed,
    saving,
    dirty,
    mayGo,
    load,
    value,
    set,
    save,
    settle,
    reset,
    close,
  }
}

export type RecordFormState = ReturnType<typeof useRecordForm>
