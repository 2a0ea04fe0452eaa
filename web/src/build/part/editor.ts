import type { Part } from '@/api/types'

/** What the editor of every part is given; it emits what is to be changed of the part. */
export interface PartEditorProps {
  part: Part
  step: string
  pointer: string
  /** On a page, what feeds the part and when it is offered is set beside it. */
  page?: boolean
}
