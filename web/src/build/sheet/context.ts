import { inject, provide, type InjectionKey, type Ref } from 'vue'
import type { Finding, Step } from '@/api/types'
import type { Edit, Rename } from '../document'
import type { Removal } from '../removal'

/** What the editors of a sheet share. */
export interface SheetContext {
  edit: Edit
  /** Gives what is at a pointer another key, which everything that names it follows. */
  rename: Rename
  /** Asks before something goes that other things need. */
  removable: Removal
  /** The document as it is. */
  body: () => unknown
  findings: Ref<Finding[]>
  steps: Ref<Step[]>
}

const key: InjectionKey<SheetContext> = Symbol('sheet')

export function provideSheet(context: SheetContext): void {
  provide(key, context)
}

export function useSheet(): SheetContext {
  const context = inject(key)
  if (!context) throw new Error('an editor of the sheet stands outside a sheet')
  return context
}
