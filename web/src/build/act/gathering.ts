import type { ExprType, GatherColumn, GatherFrom } from '@/api/types'
import { resultOf, typeOfKind, type FieldType } from '@/fields/fields'
import { target, type useBuild } from '../build'

/** A value of what is at hand of a list, which a column can hold. */
export interface Candidate {
  label: string
  path: string
  type: FieldType
  object?: string
}

/** What the rows of a list can be made of: the fields of its records, or what was given in its rows. */
export function candidates(build: ReturnType<typeof useBuild>, item: string, type?: ExprType): Candidate[] {
  const fields = (object: string | undefined, at: string): Candidate[] =>
    (build.object(object)?.fields ?? []).map((f) => ({
      label: f.label,
      path: `${at}.${f.key}`,
      type: resultOf(f),
      object: target(f),
    }))
  if (type?.kind === 'list') return fields(type.object, item)
  return (type?.answers ?? []).flatMap((a) => {
    const at = `${item}.${a.key}`
    const own = typeOfKind(a.type.kind)
    if (a.type.kind === 'record') return fields(a.type.object, at)
    return own ? [{ label: a.label || a.key, path: at, type: own }] : []
  })
}

/** Rows that have a value for a column besides. */
export function withValue(from: GatherFrom, column: string, expression: string | undefined): GatherFrom {
  const others = from.values.filter((v) => v.column !== column)
  return { ...from, values: expression ? [...others, { column, value: { expression } }] : others }
}

/** A column that holds a candidate. */
export const columnOf = (c: Candidate, key: string): GatherColumn => ({
  key,
  label: c.label,
  type: c.type === 'running_number' ? 'text' : c.type,
  ...(c.type === 'reference' ? { object: c.object } : {}),
})
