import type { Look, Ref, RowsView } from '@/api/types'

/** Where the parts of a surface get more of what they show. */
export interface SurfaceSource {
  rows(part: string, look: Look): Promise<RowsView>
  options(part: string, text: string): Promise<Ref[]>
  /** The address of a record, or null where records cannot be opened. */
  recordAddress(object: string, id: number): string | null
  /** Whether a record opens in a tab of its own, so that unfinished work stays in view. */
  beside?: boolean
}
