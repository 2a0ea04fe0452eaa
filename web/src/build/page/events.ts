import type { EventKind } from '@/api/types'

/** Something that happens on a page, as it is said; whether it happens to a part, and to inputs as well. */
interface EventEntry {
  words: string
  part?: true
  inputs?: true
}

/** Every event there is. */
export const events: Record<EventKind, EventEntry> = {
  opened: { words: 'the page is opened' },
  came_back: { words: 'somebody comes back to it' },
  changed: { words: 'something is entered or chosen in', part: true, inputs: true },
  row_pressed: { words: 'a row is pressed in', part: true },
  written: { words: 'rows are saved or changed in', part: true },
  dialog_over: { words: 'a dialog is over' },
  every: { words: 'there have passed' },
}
