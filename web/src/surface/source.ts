import type { Base } from '@/api/client'
import type { Answers, Effect, Entry, PressedButton, Ref, TableAt } from '@/api/types'

/** What came of a button or a reaction that was tried, for whoever builds. */
export interface Tried {
  /** What set it going, in words. */
  by: string
  changed: number
  trace: Entry[]
}

/** Where the parts of a surface get more of what they show. */
export interface SurfaceSource {
  /** Where tables are asked for: /use, or a space in Build. */
  base: Base
  /** Which table a part is. */
  at(part: string): TableAt
  options(part: string, text: string): Promise<Ref[]>
  /** The address of a record, or null where records cannot be opened. */
  recordAddress(object: string, id: number): string | null
  /** What a button leaves to be done: a walkthrough or a record opens. */
  effect?(effect: Effect): void | Promise<void>
  /** A row of a table was pressed; whether that sets something going. */
  rowPressed?(part: string, row: number): boolean
  /** Something was set going in a rehearsal, which sets it going again whenever it is replayed. */
  pressed?(what: PressedButton): void
  /** Takes note of what was given by hand on the screen so far. */
  typed?(answers: Answers): void
  /** Whether what buttons write is put back, and what came of one that was tried. */
  tries?(): boolean
  tried?(what: Tried): void
  /** Whether a record opens in a tab of its own, so that unfinished work stays in view. */
  beside?: boolean
}
