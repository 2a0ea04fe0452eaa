import { defineStore } from 'pinia'
import { computed, shallowReactive, shallowRef } from 'vue'
import { useSession } from '@/session'
import { useBuild } from './build'
import { makeDraft, type Draft, type Kept, type Refusal, type Task } from './draft'

/** What waits is kept in the tab, for its person: another tab, and anybody else, has their own. */
function keptInTab(key: string): Kept {
  return {
    read: () => JSON.parse(sessionStorage.getItem(key) ?? '[]') as Task[],
    write: (tasks) => {
      try {
        if (tasks.length) sessionStorage.setItem(key, JSON.stringify(tasks))
        else sessionStorage.removeItem(key)
      } catch {
        // There is no room for it: it is sent all the same, and leaving is asked about.
      }
    },
  }
}

/** The documents that are being edited; what waits goes on being sent when their pages are left. */
export const useDrafts = defineStore('drafts', () => {
  const build = useBuild()
  const session = useSession()
  const prefix = () => `plainpath.outbox ${session.me?.id ?? 0} `
  const all = shallowReactive(new Map<string, Draft>())
  /** What was refused since somebody looked. */
  const told = shallowRef<Refusal[]>([])
  const waiting = computed(() => [...all.values()].reduce((sum, d) => sum + d.waiting.value, 0))

  /** Whether something waits because the server was not reached. */
  const lost = computed(() => [...all.values()].some((d) => d.waiting.value && d.lost.value))
  const now = () => all.forEach((d) => d.now())

  function of(kind: string, key: string): Draft {
    const address = `/build/documents/${kind}/${encodeURIComponent(key)}`
    let draft = all.get(address)
    if (!draft) {
      draft = makeDraft(
        { kind, key },
        keptInTab(prefix() + address),
        (refusal) => (told.value = [...told.value, refusal]),
        () => void build.load().catch(() => undefined),
      )
      all.set(address, draft)
    }
    return draft
  }

  /** Takes up what was left waiting when the page was loaded anew. */
  function takeUp(): void {
    for (const key of Object.keys(sessionStorage)) {
      if (!key.startsWith(prefix())) continue
      const [, , , kind, name] = key.slice(prefix().length).split('/')
      of(kind, decodeURIComponent(name))
    }
  }

  /** Whoever signs out leaves nothing behind that would be sent as somebody else. */
  function forget(): void {
    all.forEach((d) => d.forget())
    all.clear()
    told.value = []
  }

  return { of, told, waiting, lost, now, takeUp, forget }
})
