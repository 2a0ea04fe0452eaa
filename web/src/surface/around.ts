import { inject, onScopeDispose, provide, type InjectionKey } from 'vue'
import type { Effect } from '@/api/types'
import { useFiles } from '@/fields/files'
import { save } from './save'

/** What a button can do to the page or screen that it stands on. */
export interface Around {
  /** Puts a value into an input, as if it had been entered. */
  set(part: string, value: unknown): void
  /** Reads a part again, or all there is. */
  again(part?: string): void
  /** Downloads a file that is kept, or the rows of a part. */
  download(what: Effect): void | Promise<void>
  /** What can be done to parts, by key. */
  parts: Map<string, Does>
}

/** What can be done to a part. */
interface Does {
  read: () => void
  /** Downloads its rows as they are looked at. */
  download?: (format: string) => Promise<void>
}

const key: InjectionKey<Around> = Symbol('around')

export function provideAround(set: Around['set'], all: () => void): Around {
  const parts: Around['parts'] = new Map()
  const files = useFiles()
  const again = (part?: string) => {
    const does = parts.get(part ?? '')
    if (does) does.read()
    else all()
  }
  function download(what: Effect): void | Promise<void> {
    if (what.record) return save(files.address(what.record))
    const rows = parts.get(what.part ?? '')?.download
    if (!rows) throw new Error('The table whose rows are meant is not there, so nothing was downloaded.')
    return rows(what.format ?? 'csv')
  }
  const around = { set, again, download, parts }
  provide(key, around)
  return around
}

/** What is around a part, which says what can be done to it. */
export function useAround(part: string, does: Does): Around | undefined {
  const around = inject(key, undefined)
  // What rows open to has the key of its table, which was there before.
  if (around && !around.parts.has(part)) {
    around.parts.set(part, does)
    onScopeDispose(() => around.parts.delete(part))
  }
  return around
}
