import { counts, given, seated } from '@/api/client'
import { counted } from '@/api/counted'
import type { FormPartView } from '@/api/types'
import type { SurfaceSource } from '../source'
import type { Editing, FormRecords } from './form'

/** Where a form of a page or a screen reads its record and saves it. */
export function formPlace(source: () => SurfaceSource, part: () => string, form: () => FormPartView) {
  const server = () => seated(source().base)
  const at = () => source().at(part())
  const once = counted()
  const edits = (values: Record<string, unknown>) => {
    const shown = new Set(
      form()
        .fields.filter((f) => !f.read_only)
        .map((f) => f.heading.path),
    )
    return Object.fromEntries(Object.entries(values).filter(([key]) => shown.has(key)))
  }
  const editing = (e: Editing) => ({ record: e.id, values: edits(e.values) })
  const save = (record: number, values: Record<string, unknown>, before?: Record<string, unknown>) => {
    const body = { at: at(), record, values: edits(values), before }
    return once(body, (key) => given(server().POST('/forms/save', { body, ...counts(key) })))
  }
  const records: FormRecords = {
    form: () => given(server().POST('/forms', { body: { at: at() } })),
    add: (values) => save(0, values),
    change: save,
    fit: (e) => given(server().POST('/forms/fit', { body: { at: at(), editing: editing(e) } })),
  }
  const find = (field: string, e: Editing, text: string) =>
    given(server().POST('/forms/options', { body: { at: at(), editing: editing(e), field, text } }))
  return { records, find }
}
