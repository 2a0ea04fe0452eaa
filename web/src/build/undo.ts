import { useEventListener } from '@vueuse/core'
import { command, typing } from '@/frame/keys'

/** Ctrl Z takes the last edit of a document back, Ctrl Shift Z brings it again. */
export function useUndoKeys(doc: { undo: () => unknown; redo: () => unknown }): void {
  useEventListener('keydown', (event: KeyboardEvent) => {
    const asked = typing(event) ? '' : command(event)
    if (asked !== 'undo' && asked !== 'redo') return
    event.preventDefault()
    void (asked === 'redo' ? doc.redo() : doc.undo())
  })
}
