import type { FieldType } from '../fields'
import type { Ref } from '@/api/types'

/** What every input is told. Its value is as it travels in JSON, null when empty. */
export interface InputProps {
  id: string
  type: FieldType
  choices?: { key: string; label: string }[]
  invalid?: boolean
  describedBy?: string
  /** The name for people who hear it, where no label stands beside it. */
  label?: string
  currency?: string
  find?: (text: string) => Promise<Ref[]>
  /** Choices stand in a list that opens, however few they are. */
  closed?: boolean
}

/** What people hear of an input that is one element. */
export const heard = (props: InputProps) => ({
  id: props.id,
  invalid: props.invalid,
  'aria-describedby': props.describedBy,
  'aria-label': props.label,
})
