import { useToast } from 'primevue/usetoast'
import { computed, shallowRef } from 'vue'
import { type LocationQuery, useRoute, useRouter } from 'vue-router'
import { api, counts, given, requestKey, titleOf } from '@/api/client'
import type { Answers, Effect, Run } from '@/api/types'
import { inOrder } from '@/surface/inorder'
import { brief } from '@/surface/sentence'

/** A page with what it was handed. */
export interface Beside {
  page: string
  taken: Answers
}

/** What a page is handed, in its address, so that the address can be given to others. */
function queryOf(hand: Record<string, unknown> = {}): Record<string, string> {
  const short = (v: unknown) => (v && typeof v === 'object' && 'id' in v ? { id: v.id } : v)
  return Object.fromEntries(Object.entries(hand).map(([key, v]) => [key, JSON.stringify(short(v))]))
}

/** What stands in the address of a page of how it is looked at; no key of what it takes begins so. */
const looked = '_'
const tabs = looked + 'tab'

/** Which tabs of a page are open, in its address. */
export function useTabsInAddress() {
  const route = useRoute()
  const router = useRouter()
  return computed({
    get: () => (typeof route.query[tabs] === 'string' ? route.query[tabs].split(',') : []),
    set: (open: string[]) =>
      void router.replace({
        query: { ...route.query, [tabs]: open.join(',') || undefined },
        hash: route.hash,
      }),
  })
}

/** What is handed to a page in its address. */
export function takenFrom(query: LocationQuery): Answers {
  const read = (v: string) => {
    try {
      return JSON.parse(v) as unknown
    } catch {
      return v
    }
  }
  return Object.fromEntries(
    Object.entries(query).flatMap(([key, v]) =>
      typeof v === 'string' && !key.startsWith(looked) ? [[key, read(v)]] : [],
    ),
  )
}

/** What acts leave to be done in Use: something is said, a record opens, or a walkthrough, perhaps in a dialog. */
export function useEffects(beside: boolean) {
  const router = useRouter()
  const toast = useToast()
  const dialog = shallowRef<Run | null>(null)
  /** A page that is open beside what is there. */
  const side = shallowRef<Beside | null>(null)

  async function effect(e: Effect): Promise<void> {
    if (e.kind === 'say') {
      toast.add(brief(e))
      return
    }
    if (e.kind === 'open' && e.link) {
      Object.assign(document.createElement('a'), { href: e.link, target: '_blank', rel: 'noopener' }).click()
      return
    }
    if (e.kind === 'open' && e.page) {
      if (e.beside) side.value = { page: e.page, taken: e.hand ?? {} }
      else await router.push({ path: '/use/page/' + e.page, query: queryOf(e.hand) })
      return
    }
    if (e.kind === 'open') {
      const address = `/use/record/${e.object}/${e.record}` + (e.edit ? '?edit=yes' : '')
      if (beside) window.open(address, '_blank')
      else await router.push(address)
      return
    }
    try {
      const run = await begin(e.walkthrough ?? '', e.hand)
      if (e.dialog) dialog.value = run
      else await router.push('/use/run/' + run.id)
    } catch (error) {
      toast.add({ severity: 'warn', summary: 'Not opened', detail: titleOf(error), life: 8000 })
    }
  }

  /** Begins a walkthrough; what its first steps leave to be done is done once, here. */
  async function begin(walkthrough: string, taken: Record<string, unknown> = {}): Promise<Run> {
    const run = await given(api.POST('/use/runs', { body: { walkthrough, taken }, ...counts(requestKey()) }))
    await inOrder(run.view?.effects ?? [], effect)
    return run
  }

  return { effect, begin, dialog, side }
}
