import { useToast } from 'primevue/usetoast'
import { shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { api, counts, given, requestKey, titleOf } from '@/api/client'
import type { Effect, Run } from '@/api/types'
import { brief } from '@/surface/sentence'

/** What acts leave to be done in Use: something is said, a record opens, or a walkthrough, perhaps in a dialog. */
export function useEffects(beside: boolean) {
  const router = useRouter()
  const toast = useToast()
  const dialog = shallowRef<Run | null>(null)

  async function effect(e: Effect): Promise<void> {
    if (e.kind === 'say') {
      toast.add(brief(e))
      return
    }
    if (e.kind === 'open') {
      const address = `/use/record/${e.object}/${e.record}`
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
    for (const e of run.view?.effects ?? []) await effect(e)
    return run
  }

  return { effect, begin, dialog }
}
