import type { Op } from '@/api/types'

type Holder = Record<string, unknown> | unknown[]

const token = (t: string) => t.replace(/~1/g, '/').replace(/~0/g, '~')

/** A document after a JSON Patch of additions, removals and replacements (RFC 6902). */
export function applied<T>(document: T, patch: Op[]): T {
  const out = JSON.parse(JSON.stringify(document)) as T
  for (const op of patch) {
    const path = op.path.split('/').slice(1).map(token)
    const last = path.pop()
    let at: Holder | undefined = out as Holder
    for (const key of path) at = (at as Record<string, unknown> | undefined)?.[key] as Holder | undefined
    if (last === undefined || typeof at !== 'object' || at === null) continue
    if (Array.isArray(at)) {
      const index = last === '-' ? at.length : Number(last)
      if (op.op === 'add') at.splice(index, 0, op.value)
      else if (op.op === 'remove') at.splice(index, 1)
      else at[index] = op.value
    } else if (op.op === 'remove') delete at[last]
    else at[last] = op.value
  }
  return out
}
