import { computed } from 'vue'
import type { LookTotal } from '@/api/types'
import { fieldTypes, resultOf, type FieldType } from '@/fields/fields'
import { aggregateWord } from '@/surface/table/words'
import { useBuild } from '../build'

/** What can be made of the records of an object: their number, or something of a field, as it is chosen from. */
export function useTotals(object: () => string, may: (type: FieldType) => boolean) {
  const build = useBuild()
  const options = computed(() => [
    { key: '', label: 'how many there are' },
    ...build.paths(object(), 1).flatMap((o) => {
      const type = resultOf(o.field)
      if (!may(type)) return []
      return fieldTypes[type].aggregates.map((of) => ({
        key: `${of} ${o.path}`,
        label: `${aggregateWord(of, type)} of ${o.label.toLowerCase()}`,
      }))
    }),
  ])
  return options
}

/** A total by the key of its option, nothing for the number of records. */
export function totalOf(key: string): Pick<LookTotal, 'path' | 'of'> | undefined {
  const [of, path] = key.split(' ')
  return path ? { path, of: of as LookTotal['of'] } : undefined
}
