import type { Condition } from '@/api/types'
import { dated, operators, several } from '@/api/words'
import { fieldTypes, type FieldType } from './fields'

export type Operator = NonNullable<Condition['op']>

const words: Record<Operator, string> = operators
const datedWords: Partial<Record<Operator, string>> = dated
const severalWords: Partial<Record<Operator, string>> = several

/** Dates are asked "before" and "after", not "less" and "more". */
export function operatorWord(op: Operator, type: FieldType | undefined): string {
  const own = type && fieldTypes[type].family === 'time' ? datedWords[op] : undefined
  return own ?? (type === 'several_choices' ? severalWords[op] : undefined) ?? words[op]
}
