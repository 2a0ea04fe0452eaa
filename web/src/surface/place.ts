import { onBeforeUnmount } from 'vue'
import { router } from '@/router'

/**
 * What somebody had before them at an entry of the browser's history. It is there again for
 * whoever comes back by the arrows of the browser; a link begins anew.
 */
const kept = new Map<string, unknown>()
const most = 200

let popped = false
let cameBack = false
router.options.history.listen((_to, _from, info) => (popped = info.type === 'pop'))
router.afterEach(() => {
  cameBack = popped
  popped = false
})

const entry = () => `${(history.state as { position?: number } | null)?.position ?? 0} ${location.pathname}`

/**
 * What a part had when it was left at this entry, and how it is kept when it is left again.
 * Nothing is kept without a name.
 */
export function usePlace<T>(name: string, now: () => T): T | undefined {
  if (!name) return undefined
  const key = `${entry()} ${name}`
  const was = cameBack ? (kept.get(key) as T | undefined) : undefined
  onBeforeUnmount(() => {
    kept.delete(key)
    kept.set(key, now())
    if (kept.size > most) kept.delete(kept.keys().next().value!)
  })
  return was
}
