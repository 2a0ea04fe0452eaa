import { createSharedComposable } from '@vueuse/core'
import { ref } from 'vue'

/** Whether the sheet of keys is open. */
export const useKeysHelp = createSharedComposable(() => ref(false))

/** Says whether a key press belongs to a field somebody is typing in. */
export function typing(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null
  return !!target?.closest('input, textarea, select, [contenteditable]')
}
