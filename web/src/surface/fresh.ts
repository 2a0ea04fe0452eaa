import type { Lines, ObjectDef } from '@/api/types'
import { fieldTypes, isShort } from '@/fields/fields'

/** What a new part has to begin with. */
export interface Beginning {
  /** A key that is free, like what is wished for. */
  key: (wish: string) => string
  /** What can be shown: a list or a record that is known, and its object. */
  of?: { path: string; object?: ObjectDef; values?: Lines['columns'] }
  page?: boolean
}

/** The columns that a table of an object begins with: what it is called by, and on a page what is short. */
export function columns(object: ObjectDef | undefined, page: boolean | undefined): { path: string }[] {
  if (!object) return []
  const others = page ? object.fields.filter((f) => isShort(f.type)).map((f) => f.key) : []
  return [object.label_field, ...others.filter((k) => k !== object.label_field)]
    .slice(0, 7)
    .map((path) => ({ path }))
}

/** The texts of an object that are short enough to be searched in. */
export const texts = (object: ObjectDef) =>
  object.fields.filter((f) => fieldTypes[f.type].searchable && isShort(f.type)).map((f) => f.key)
