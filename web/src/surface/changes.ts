import { useEventListener } from '@vueuse/core'
import { onUnmounted } from 'vue'
import { seenAs } from '@/api/client'
import type { Told } from '@/api/types'

type Heard = (told: Told) => void

/** What is heard of changes at an address; `close` ends it. */
interface Stream {
  heard: Set<Heard>
  close: () => void
}

const streams = new Map<string, Stream>()

/** How long until a stream that was refused is asked for again, in milliseconds. */
const pause = 5000

/** Holds the connection to the server until it is closed. */
function connect(address: string, tell: Heard): () => void {
  let source: EventSource | undefined
  let timer: ReturnType<typeof setTimeout> | undefined
  let gap = false
  const open = (): void => {
    source = new EventSource(address)
    source.onmessage = (e: MessageEvent<string>) => tell(JSON.parse(e.data) as Told)
    source.onopen = () => {
      if (gap) tell({}) // something may have been missed
      gap = false
    }
    source.onerror = () => {
      gap = true
      // Otherwise it comes back by itself.
      if (source?.readyState === EventSource.CLOSED) timer = setTimeout(open, pause)
    }
  }
  open()
  return () => {
    clearTimeout(timer)
    source?.close()
  }
}

/**
 * One tab of the browser holds the connection and passes on what it hears; when it is closed
 * another takes over. Browsers keep few connections to one address, so that many tabs with one
 * each would leave none for anything else.
 */
function shared(address: string, tell: Heard): () => void {
  if (!navigator.locks) return connect(address, tell)
  const channel = new BroadcastChannel(address)
  channel.onmessage = (e: MessageEvent<Told>) => tell(e.data)
  const leaving = new AbortController()
  const began = Date.now()
  void navigator.locks
    .request(address, { signal: leaving.signal }, async () => {
      const pass = (told: Told): void => {
        tell(told)
        channel.postMessage(told)
      }
      const close = connect(address, pass)
      if (Date.now() - began > 1000) pass({}) // while nobody listened something may have been missed
      await new Promise<void>((done) => leaving.signal.addEventListener('abort', () => done()))
      close()
    })
    .catch(() => undefined) // it was left before its turn came
  return () => {
    leaving.abort()
    channel.close()
  }
}

/**
 * Tells when records change that the person may see, on whatever server and by whomever; with
 * no object when some changes may have been missed.
 */
export function useChanges(base: string, heard: Heard): void {
  const address = `/api${base}/changes` + (seenAs() ? `?see_as=${seenAs()}` : '')
  let stream = streams.get(address)
  if (!stream) {
    const all = new Set<Heard>()
    stream = { heard: all, close: shared(address, (told) => all.forEach((h) => h(told))) }
    streams.set(address, stream)
  }
  stream.heard.add(heard)
  const leave = (): void => {
    const mine = streams.get(address)
    mine?.heard.delete(heard)
    if (mine && !mine.heard.size) {
      mine.close()
      streams.delete(address)
    }
  }
  useEventListener(window, 'pagehide', leave)
  onUnmounted(leave)
}
