import { useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import { useConfirm } from 'primevue/useconfirm'
import { useToast } from 'primevue/usetoast'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { silent, useReach } from '@/api/reach'
import { type Base, counts, given, requestKey, seated, titleOf } from '@/api/client'
import type { Effect, EventKind, ReactionView } from '@/api/types'
import { inOrder } from './inorder'
import type { usePage } from './page'
import { brief, say } from './sentence'

/** What a page does to the parts that stand on it. */
interface Parts {
  set(part: string, value: unknown): void
  again(part?: string): void
}

/**
 * What a page does by itself when something happens on it. Reactions are carried out one after another; one that sets
 * another going is not set going by that again.
 */
export function useReactions(base: Base, page: ReturnType<typeof usePage>, parts: () => Parts | null) {
  const confirm = useConfirm()
  const toast = useToast()
  /** What is shown while one is carried out. */
  const holds = ref('')
  const { lost, reach, now } = useReach()
  let last: Promise<void> = Promise.resolve()
  /** Those that were set going one by another and are not over. */
  let going = new Set<string>()
  let waiting = 0
  let gone = false
  onScopeDispose(() => {
    gone = true
    now()
  })

  const wanted = (event: EventKind, part?: string) =>
    (page.view.value?.reactions ?? []).filter(
      (r) => r.when.event === event && (r.when.part ?? '') === (part ?? ''),
    )

  /** Something happened; whether it sets anything going. */
  function happens(event: EventKind, part?: string, row?: number): boolean {
    const all = wanted(event, part)
    for (const r of all.filter((r) => !going.has(r.key))) follow(r, row)
    return all.length > 0
  }

  function follow(r: ReactionView, row?: number): void {
    going.add(r.key)
    waiting++
    last = last
      .then(() => (gone ? undefined : carryOut(r, row)))
      .finally(() => {
        if (--waiting === 0) going = new Set()
      })
  }

  async function carryOut(r: ReactionView, row?: number, confirmed: number[] = []): Promise<void> {
    const view = page.view.value
    holds.value = r.hold ?? ''
    const body = { given: page.given.value, row, confirmed, tried: page.source.tries?.() || undefined }
    const once = counts(requestKey())
    try {
      // Where the answer is lost it is asked after, which does nothing twice.
      const done = await reach(() => {
        if (gone) throw new Error('the page was left')
        const params = { path: { key: view!.key, reaction: r.key } }
        return given(seated(base).POST('/pages/{key}/reactions/{reaction}', { params, body, ...once }))
      })
      if (gone || page.view.value?.key !== view?.key) return
      if (done.trace) page.source.tried?.({ by: r.key, changed: done.changed, trace: done.trace })
      const asked = done.effects.find((e) => e.kind === 'confirm')
      if (asked) {
        const yes = await question(say(asked.message), asked.yes || 'Go on')
        if (yes) await carryOut(r, row, [...confirmed, asked.line ?? 0])
        return
      }
      await inOrder(done.effects, effect)
    } catch (error) {
      if (!gone) toast.add({ severity: 'warn', summary: 'Not done', detail: titleOf(error), life: 8000 })
    } finally {
      holds.value = ''
    }
  }

  const question = (message: string, yes: string) =>
    new Promise<boolean>((done) =>
      confirm.require({
        defaultFocus: 'reject',
        header: page.view.value?.label,
        message,
        acceptLabel: yes,
        rejectLabel: 'Leave it',
        rejectProps: { outlined: true },
        accept: () => done(true),
        reject: () => done(false),
        onHide: () => done(false),
      }),
    )

  async function effect(e: Effect): Promise<void> {
    if (e.kind === 'say') toast.add(brief(e))
    else if (e.kind === 'set') parts()?.set(e.part!, e.value)
    else if (e.kind === 'read_again') await readAgain(e.part)
    else await page.source.effect?.(e)
  }

  /** A search is made again before what follows; a part reads itself again. */
  async function readAgain(part: string | undefined): Promise<void> {
    if (part && !page.isPart(part)) await page.read(part)
    else parts()?.again(part)
  }

  // What is to be done every so many minutes is done while the page is looked at.
  const looked = useDocumentVisibility()
  const minutes = new Map<string, number>()
  useIntervalFn(() => {
    if (looked.value !== 'visible') return
    for (const r of wanted('every')) {
      const passed = (minutes.get(r.key) ?? 0) + 1
      minutes.set(r.key, passed % (r.when.minutes ?? 1))
      if (passed >= (r.when.minutes ?? 1) && !going.has(r.key)) follow(r)
    }
  }, 60_000)

  // A page is opened, or come back to, when there is something to see.
  watch(
    () => page.view.value?.key,
    (key) => {
      minutes.clear()
      if (key) happens(page.cameBack() ? 'came_back' : 'opened')
    },
    { flush: 'post' },
  )

  return { happens, holds: computed(() => (lost.value ? silent : holds.value)) }
}
