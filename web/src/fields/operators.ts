import type { Condition } from '@/api/types'
import { fieldTypes, type FieldType } from './fields'

export type Operator = NonNullable<Condition['op']>

const operatorWords: Record<Operator, string> = {
  is: 'is',
  is_not: 'is not',
  contains: 'contains',
  starts_with: 'starts with',
  more: 'is more than',
  more_or_equal: 'is at least',
  less: 'is less than',
  less_or_equal: 'is at most',
  between: 'is between',
  one_of: 'is one of',
  includes: 'includes',
  includes_not: 'does not include',
  is_empty: 'is empty',
  is_not_empty: 'is not empty',
  within_last_days: 'is within the last … days',
  within_next_days: 'is within the next … days',
}

/** Dates are asked "before" and "after", not "less" and "more". */
export function operatorWord(op: Operator, type: FieldType | undefined): string {
  if (type === 'several_choices' && op === 'one_of') return 'includes one of'
  if (type && fieldTypes[type].family === 'time') {
    const dated: Partial<Record<Operator, string>> = {
      more: 'is after',
      more_or_equal: 'is on or after',
      less: 'is before',
      less_or_equal: 'is on or before',
    }
    const word = dated[op]
    if (word) return word
  }
  return operatorWords[op]
}
