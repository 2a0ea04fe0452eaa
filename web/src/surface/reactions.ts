import { useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import { useConfirm } from 'primevue/useconfirm'
import { useToast } from 'primevue/usetoast'
import { computed, ref, watch } from 'vue'
import { silent, useReachHere } from '@/api/reach'
import { counts, given, requestKey, seated, titleOf } from '@/api/client'
import type { Effect, EventKind, ReactionView } from '@/api/types'
import type { Around } from './around'
import { inOrder } from './inorder'
import { brief, say } from './sentence'
import type { SurfaceSource } from './source'

/** A page or a screen that does something by itself. */
interface Reacting {
  source: SurfaceSource
  /** Which page or screen it is, empty while there is none. */
  place(): string
  label(): string
  reactions(): ReactionView[]
  /** Whether it was there before and is come back to. */
  cameBack(): boolean
  /** What its reactions do to the parts that stand on it. */
  parts(): Pick<Around, 'set' | 'again' | 'download'> | null
  /** Makes a search again and says whether it was read; undefined for what is none. */
  read?(search: string): Promise<boolean> | undefined
}

/**
 * What a page or a screen does by itself when something happens on it. Reactions are carried out one after another; one
 * that sets another going is not set going by that again.
 */
export function useReactions(here: Reacting) {
  const confirm = useConfirm()
  const toast = useToast()
  /** What is shown while one is carried out. */
  const holds = ref('')
  const { lost, reach, gone } = useReachHere()
  let last: Promise<void> = Promise.resolve()
  /** Those that were set going one by another and are not over. */
  let going = new Set<string>()
  let waiting = 0

  const wanted = (event: EventKind, part?: string) =>
    here.reactions().filter((r) => r.when.event === event && (r.when.part ?? '') === (part ?? ''))

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
      .then(() => (gone() ? undefined : carryOut(r, row)))
      .finally(() => {
        if (--waiting === 0) going = new Set()
      })
  }

  async function carryOut(r: ReactionView, row?: number, confirmed: number[] = []): Promise<void> {
    const place = here.place()
    holds.value = r.hold ?? ''
    const { source } = here
    const tried = source.tries?.() || undefined
    const body = { at: source.at(''), reaction: r.key, row, confirmed, tried }
    const once = counts(requestKey())
    try {
      // Where the answer is lost it is asked after, which does nothing twice.
      const done = await reach(() => given(seated(source.base).POST('/react', { body, ...once })))
      if (gone() || here.place() !== place) return
      if (done.trace) source.tried?.({ by: r.key, changed: done.changed, trace: done.trace })
      const asked = done.effects.find((e) => e.kind === 'confirm')
      if (asked) {
        const yes = await question(say(asked.message), asked.yes || 'Go on')
        if (yes) await carryOut(r, row, [...confirmed, asked.line ?? 0])
        return
      }
      await inOrder(done.effects, effect)
      if (done.put_back) source.pressed?.({ reaction: r.key, chosen: row ? { keys: [row] } : {}, confirmed })
    } catch (error) {
      if (!gone()) toast.add({ severity: 'warn', summary: 'Not done', detail: titleOf(error), life: 8000 })
    } finally {
      holds.value = ''
    }
  }

  const question = (message: string, yes: string) =>
    new Promise<boolean>((done) =>
      confirm.require({
        defaultFocus: 'reject',
        header: here.label(),
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
    else if (e.kind === 'set') here.parts()?.set(e.part!, e.value)
    else if (e.kind === 'read_again') await readAgain(e.part)
    else if (e.kind === 'download') await here.parts()?.download(e)
    else await here.source.effect?.(e)
  }

  /** A search is made again before what follows; a part reads itself again. */
  async function readAgain(part: string | undefined): Promise<void> {
    const reads = part ? here.read?.(part) : undefined
    if (reads && !(await reads))
      throw new Error('It was not read to the end; what was to follow is not done.')
    if (!reads) here.parts()?.again(part)
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

  // It is opened, or come back to, when there is something to see.
  watch(
    here.place,
    (place) => {
      minutes.clear()
      if (place) happens(here.cameBack() ? 'came_back' : 'opened')
    },
    { flush: 'post', immediate: true },
  )

  return { happens, holds: computed(() => (lost.value ? silent : holds.value)) }
}
