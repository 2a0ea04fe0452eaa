import { ref, shallowRef, watch, type Ref as VueRef } from 'vue'
import { latest, stopped } from '@/api/latest'
import type { Answers, BandView, View } from '@/api/types'
import { merged } from './page'
import { turnsOf } from './turns'

/**
 * A screen whose parts follow each other while somebody fills it in. An answer that arrives after a newer question, or
 * on another screen, is thrown away.
 */
export function useFollowing(
  view: VueRef<View | null | undefined>,
  ask: (given: Answers, changed: string[], signal: AbortSignal) => Promise<BandView[]>,
  failed: (error: unknown) => void,
) {
  /** What was given by hand on the screen so far. */
  const given = shallowRef<Answers>({})
  const question = latest()
  // Parts whose change no answer has covered yet.
  let waiting: string[] = []
  /** What follows is being read. */
  const busy = ref(false)
  let halted = false
  const place = () => (view.value ? `${view.value.step}@${turnsOf(view.value)}` : '')

  watch(place, () => {
    question.ask()
    given.value = {}
    waiting = []
    busy.value = false
  })

  /** Whether what follows was read, now or by a later question. */
  async function follow(answers: Answers, ...changed: string[]): Promise<boolean> {
    given.value = answers
    waiting = [...new Set([...waiting, ...changed])]
    const isLatest = question.ask()
    halted = false
    busy.value = true
    try {
      const bands = await ask(answers, waiting, isLatest.signal)
      if (!isLatest() || !view.value) return !halted
      waiting = []
      view.value = { ...view.value, bands: merged(view.value.bands, bands) }
      return true
    } catch (error) {
      if (!isLatest()) return !halted
      failed(error)
      return false
    } finally {
      if (isLatest()) busy.value = false
    }
  }

  /** Gives up what is being read; what is shown stays as it is. */
  function stop(): void {
    question.ask()
    halted = true
    busy.value = false
    failed(new Error(stopped))
  }

  /** After the screen was read anew, what was given by hand is followed again. */
  const again = () => {
    const feeds = view.value?.feeds ?? []
    return Object.keys(given.value).length && feeds.length
      ? follow(given.value, ...feeds)
      : Promise.resolve(true)
  }

  return { given, follow, again, busy, stop }
}
