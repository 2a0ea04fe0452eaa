import { effectScope } from 'vue'
import type { FormView } from '@/api/types'
import { ProblemError } from '@/api/client'
import { type FormRecords, useRecordForm } from '@/surface/form/form'
import { askBeforeLeaving } from '@/surface/unsaved'
import { questions, settle, type Fate } from './questions'

// The form of a record, against a server of two records that others change too.

type Values = Record<string, string | null>

export interface FormAction {
  do: string
  id: number
  field: string
  value: string
  n: number
  fate: Fate
  mine: boolean
}

/** What a form shows after each of some actions, and what is stored. */
export async function forms(actions: FormAction[]) {
  const stored = new Map<number, Values>([
    [1, { a: 'a1', b: 'b1', c: null }],
    [2, { a: 'a2', b: 'b2', c: null }],
  ])
  const { open, asked, answer } = questions()
  const view = (id: number) => ({ id, values: { ...stored.get(id)! }, fixed: [] }) as unknown as FormView
  function change(id: number, values: Values, before: Values): FormView {
    const now = stored.get(id)!
    for (const field of Object.keys(values)) {
      if (String(values[field]).startsWith('bad')) {
        const problems = [{ pointer: '/' + field, text: 'is bad' }]
        throw new ProblemError({ type: 'invalid', title: 'bad', status: 422, problems })
      }
      if (now[field] !== before[field] && now[field] !== values[field]) {
        const clash = { pointer: '/' + field, theirs: now[field], ours: values[field] }
        throw new ProblemError({ type: 'meanwhile', title: 'meanwhile', status: 409, clash })
      }
    }
    Object.assign(now, values)
    return view(id)
  }
  const records = {
    form: (id: number) => asked(() => view(id)),
    change: (id: number, values: Values, before: Values) => asked(() => change(id, values, before)),
    fit: () => Promise.resolve([]),
  } as unknown as FormRecords
  askBeforeLeaving(() => Promise.resolve(false))
  const scope = effectScope()
  const form = scope.run(() => useRecordForm(records))!
  const out = []
  for (const a of actions) {
    switch (a.do) {
      case 'load':
        if (!form.dirty.value) void form.load(a.id)
        break
      case 'again':
        if (form.view.value) void form.load(form.view.value.id, true)
        break
      case 'set':
        if (form.view.value) form.set(a.field, a.value || null)
        break
      case 'save':
        if (form.dirty.value) void form.save()
        break
      case 'settle':
        void form.settle(a.mine)
        break
      case 'reset':
        form.reset()
        break
      case 'theirs':
        stored.get(a.id)![a.field] = a.value
        break
      case 'answer':
        answer(a.n, a.fate)
        break
    }
    await settle()
    const fields = ['a', 'b', 'c']
    out.push({
      id: form.view.value?.id ?? 0,
      values: form.view.value ? fields.map((f) => form.value(f)) : [],
      below: form.view.value ? fields.map((f) => form.view.value!.values[f]) : [],
      dirty: form.dirty.value,
      saving: form.saving.value,
      theirs: form.theirs.value,
      failed: form.failed.value,
      problems: { ...form.problems.value },
      stored: [1, 2].map((id) => fields.map((f) => stored.get(id)![f])),
      open: open.length,
    })
  }
  scope.stop()
  return out
}
