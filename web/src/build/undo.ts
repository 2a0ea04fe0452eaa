import { useEventListener } from '@vueuse/core'
import { typing } from '@/frame/keys'

/** Ctrl Z takes the last edit of a document back, Ctrl Shift Z brings it again. */
export function useUndoKeys(doc: { undo: () => unknown; redo: () => unknown }): void {
  useEventListener('keydown', (event: KeyboardEvent) => {
    if (typing(event) || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return
    event.preventDefault()
    void (event.shiftKey ? doc.redo() : doc.undo())
  })
}
