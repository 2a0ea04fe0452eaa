import { shallowRef, watch, type Ref as VueRef } from 'vue'
import { latest } from '@/api/latest'
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
  const place = () => (view.value ? `${view.value.step}@${turnsOf(view.value)}` : '')

  watch(place, () => {
    question.ask()
    given.value = {}
    waiting = []
  })

  async function follow(answers: Answers, ...changed: string[]): Promise<void> {
    given.value = answers
    waiting = [...new Set([...waiting, ...changed])]
    const isLatest = question.ask()
    try {
      const bands = await ask(answers, waiting, isLatest.signal)
      if (!isLatest() || !view.value) return
      waiting = []
      view.value = { ...view.value, bands: merged(view.value.bands, bands) }
    } catch (error) {
      if (isLatest()) failed(error)
    }
  }

  /** After the screen was read anew, what was given by hand is followed again. */
  const again = () => {
    const feeds = view.value?.feeds ?? []
    return Object.keys(given.value).length && feeds.length ? follow(given.value, ...feeds) : Promise.resolve()
  }

  return { given, follow, again }
}
