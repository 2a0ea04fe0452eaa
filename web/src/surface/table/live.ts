import { useDebounceFn } from '@vueuse/core'
import { ref } from 'vue'
import { tab } from '@/api/client'
import type { Told } from '@/api/types'
import type { Asking } from './asking'
import { same } from './same'
import { atOnce, type Table } from './table'

/** More changed records than this are not asked about one by one. */
const mostKeys = 200

/**
 * Which changes have to do with a table: of a row it shows, of one that belongs in it, or of a
 * record that its rows are looked at through. Changes that come together are asked about once.
 */
export function useLive(table: Table, ask: Asking, object: () => string) {
  /** Whether it should be read again, and whether that is because of what this tab did. */
  const due = ref<'nothing' | 'own' | 'others'>('nothing')
  // By object, the records that changed and are still to be asked about.
  const waiting = new Map<string, { keys: Set<number>; own: boolean }>()

  function raise(own: boolean): void {
    if (due.value !== 'others') due.value = own ? 'own' : 'others'
  }

  function hear(told: Told): void {
    const { object: of, keys } = told
    const own = !!told.tab && told.tab === tab
    if (!of) return void missed()
    if (!table.reads.value.includes(of)) return
    if (!keys?.length || (of === object() && table.rows.value.some((r) => keys.includes(r.id))))
      return raiseSoon(own)
    const now = waiting.get(of) ?? { keys: new Set<number>(), own: true }
    keys.forEach((k) => now.keys.add(k))
    now.own &&= own
    waiting.set(of, now)
    void inquire()
  }

  /** Something may have been missed: the rows are looked at again, and it is said if they are others. */
  const missed = useDebounceFn(async () => {
    const shown = table.rows.value
    const { group } = table.shown.value
    const whole = !table.lines.value.some((l) => l.kind === 'more')
    const size = Math.min(shown.length + 1, atOnce)
    const now = group ? null : await ask.rows({ ...table.shown.value, size }).catch(() => null)
    if (table.rows.value !== shown) return void missed() // they were read anew meanwhile
    const came = whole && now && now.rows.length > shown.length
    if (!now || came || !same(now.rows.slice(0, shown.length), shown)) raise(false)
  }, 250)

  // Several statements of one act are told one after another.
  const settle = { own: true }
  const settled = useDebounceFn(() => {
    raise(settle.own)
    settle.own = true
  }, 250)
  function raiseSoon(own: boolean): void {
    settle.own &&= own
    void settled()
  }

  const inquire = useDebounceFn(async () => {
    for (const [of, { keys, own }] of [...waiting]) {
      waiting.delete(of)
      if (keys.size > mostKeys) {
        raise(own)
        continue
      }
      const change = { object: of, keys: [...keys], shown: table.rows.value.map((r) => r.id) }
      // Whether it concerns the table is not known when that cannot be found out.
      const found = await ask.concerns(table.look.value, change).catch(() => ({ concerns: true }))
      if (found.concerns) raise(own)
    }
  }, 250)

  return { due, hear }
}
