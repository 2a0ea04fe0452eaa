import type { EventKind, PartKind } from '@/api/types'

/** Something that happens on a page or a screen, as it is said, and to which kinds of parts it happens. */
interface EventEntry {
  words: string
  /** The same where the part is known. */
  here?: string
  parts?: PartKind[]
}

/** Every event there is. */
export const events: Record<EventKind, EventEntry> = {
  opened: { words: 'it is opened' },
  came_back: { words: 'somebody comes back to it' },
  pressed: { words: 'a button is pressed:', here: 'it is pressed', parts: ['button'] },
  changed: {
    words: 'something is entered or chosen in',
    here: 'something is entered or chosen in it',
    parts: ['table', 'input'],
  },
  row_pressed: { words: 'a row is pressed in', here: 'a row of it is pressed', parts: ['table'] },
  written: {
    words: 'something is saved or changed in',
    here: 'something in it is saved or changed',
    parts: ['table', 'form'],
  },
  dialog_over: { words: 'a dialog is over' },
  every: { words: 'there have passed' },
}
