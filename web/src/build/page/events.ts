import type { EventKind } from '@/api/types'

/** Something that happens on a page or a screen, as it is said; whether it happens to a part, to inputs as well, to buttons alone. */
interface EventEntry {
  words: string
  /** The same where the part is known. */
  here?: string
  part?: true
  inputs?: true
  buttons?: true
}

/** Every event there is. */
export const events: Record<EventKind, EventEntry> = {
  opened: { words: 'it is opened' },
  came_back: { words: 'somebody comes back to it' },
  pressed: { words: 'a button is pressed:', here: 'it is pressed', part: true, buttons: true },
  changed: {
    words: 'something is entered or chosen in',
    here: 'something is entered or chosen in it',
    part: true,
    inputs: true,
  },
  row_pressed: { words: 'a row is pressed in', here: 'a row of it is pressed', part: true },
  written: { words: 'rows are saved or changed in', here: 'rows of it are saved or changed', part: true },
  dialog_over: { words: 'a dialog is over' },
  every: { words: 'there have passed' },
}
