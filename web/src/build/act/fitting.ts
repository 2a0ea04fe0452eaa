import type { Add, Assignment, ExprType } from '@/api/types'
import { resultOf } from '@/fields/fields'
import { settable, target, type useBuild } from '../build'
import { candidates, type Candidate } from './gathering'

/**
 * What a record added for each of a list takes of it: the record at hand where one field refers to such, or of a row
 * what is called the same. Fields that are set already stay as they are.
 */
export function fitting(
  build: ReturnType<typeof useBuild>,
  add: Add,
  item: string,
  list: ExprType | undefined,
): Assignment[] {
  const free = settable(build.object(add.object)).filter((f) => !add.values.some((v) => v.field === f.key))
  if (list?.kind === 'list') {
    const referring = free.filter((f) => target(f) === list.object)
    return referring.length === 1 ? [{ field: referring[0].key, value: { expression: item } }] : []
  }
  const offers = candidates(build, item, list)
  return free.flatMap((f) => {
    const holds = (o: Candidate) =>
      o.type === resultOf(f) || (o.type === 'whole_number' && resultOf(f) === 'decimal')
    const same = offers.find((o) => o.label.toLowerCase() === f.label.toLowerCase() && holds(o))
    return same ? [{ field: f.key, value: { expression: same.path } }] : []
  })
}
