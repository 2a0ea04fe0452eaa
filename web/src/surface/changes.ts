import { useEventListener } from '@vueuse/core'
import { onUnmounted } from 'vue'
import { seenAs } from '@/api/client'
import type { Told } from '@/api/types'

type Heard = (told: Told) => void

/** One connection for a tab, however many tables listen. */
const streams = new Map<string, { source: EventSource; heard: Set<Heard> }>()

/**
 * Tells when records change that the person may see, on whatever server and by whomever; with
 * no object when some changes may have been missed.
 */
export function useChanges(base: string, heard: Heard): void {
  let stream = streams.get(base)
  if (!stream) {
    const source = new EventSource(`/api${base}/changes` + (seenAs() ? `?see_as=${seenAs()}` : ''))
    const all = new Set<Heard>()
    source.onmessage = (e: MessageEvent<string>) => all.forEach((h) => h(JSON.parse(e.data) as Told))
    stream = { source, heard: all }
    streams.set(base, stream)
  }
  stream.heard.add(heard)
  const leave = (): void => {
    const mine = streams.get(base)
    mine?.heard.delete(heard)
    if (mine && !mine.heard.size) {
      mine.source.close()
      streams.delete(base)
    }
  }
  useEventListener(window, 'pagehide', leave)
  onUnmounted(leave)
}
