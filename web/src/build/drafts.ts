import { defineStore } from 'pinia'
import { computed, shallowReactive, shallowRef } from 'vue'
import { useBuild } from './build'
import { makeDraft, type Draft, type Kept, type Refusal, type Task } from './draft'

/** What waits is kept in the tab: another tab has its own. */
function keptInTab(name: string): Kept {
  const key = 'plainpath.outbox ' + name
  return {
    read: () => JSON.parse(sessionStorage.getItem(key) ?? '[]') as Task[],
    write: (tasks) =>
      tasks.length ? sessionStorage.setItem(key, JSON.stringify(tasks)) : sessionStorage.removeItem(key),
  }
}

/** The documents that are being edited; what waits goes on being sent when their pages are left. */
export const useDrafts = defineStore('drafts', () => {
  const build = useBuild()
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
        address,
        keptInTab(address),
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
      const [, kind, name] = /^plainpath\.outbox \/build\/documents\/([^/]+)\/(.+)$/.exec(key) ?? []
      if (kind) of(kind, decodeURIComponent(name))
    }
  }

  return { of, told, waiting, lost, now, takeUp }
})
