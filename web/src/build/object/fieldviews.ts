import type { FormFieldView, ObjectDef } from '@/api/types'
import { target } from '../build'

/** All fields of an object as a form shows them. */
export function fieldViews(object: ObjectDef): FormFieldView[] {
  return object.fields.map((f) => ({
    heading: {
      path: f.key,
      label: f.label,
      type: f.type === 'worked_out' ? f.result! : f.type,
      prefix: f.prefix,
      choices: f.choices,
      object: target(f),
      operators: [],
    },
    help: f.help,
    required: f.required,
  }))
}
