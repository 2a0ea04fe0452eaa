import { ref, shallowRef, type Ref as VueRef } from 'vue'
import { type Base, given as answered, seated, titleOf } from '@/api/client'
import { latest, stopped } from '@/api/latest'
import type { Answers, BandView, Effect, Given, Look, PageView, PartView } from '@/api/types'
import { usePlace } from './place'
import type { SurfaceSource } from './source'

/**
 * A page, live: what is entered and chosen on it feeds what depends on it. Only that is
 * asked for anew, and an answer that arrives after a newer question is thrown away.
 */
export function usePage(
  base: Base,
  name: VueRef<string>,
  effect: (e: Effect) => void | Promise<void>,
  taken: () => Answers = () => ({}),
) {
  const view = shallowRef<PageView | null>(null)
  const failed = ref('')
  const given = shallowRef<Given>({})
  const question = latest()
  // Parts whose change no answer has covered yet.
  let waiting: string[] = []

  /** Something is being read. */
  const busy = ref(false)
  let halted = false

  /** Gives up what is being read; what is shown stays as it is. */
  function stop(): void {
    question.ask()
    halted = true
    busy.value = false
    failed.value = stopped
  }

  /** Whether it was read, now or by a later question. */
  async function ask(changed?: string[]): Promise<boolean> {
    const isLatest = question.ask()
    halted = false
    failed.value = ''
    busy.value = true
    try {
      const next = await answered(
        seated(base).POST('/pages/{key}', {
          params: { path: { key: name.value } },
          body: { given: given.value, changed },
          signal: isLatest.signal,
        }),
      )
      if (!isLatest()) return !halted
      waiting = []
      view.value = changed && view.value ? { ...next, bands: merged(view.value.bands, next.bands) } : next
      return true
    } catch (error) {
      if (!isLatest()) return !halted
      failed.value = titleOf(error)
      return false
    } finally {
      if (isLatest()) busy.value = false
    }
  }

  /** What is read because of what changed last, as people call it. */
  function reads(): string {
    const all = (view.value?.bands ?? []).flatMap((b) => b.columns.flatMap((c) => c.parts))
    const late = all.filter((p) => p.waiting && waiting.includes(p.waiting.search)).map((p) => p.label)
    return late.filter(Boolean).join(', ') || 'the page'
  }

  const left = usePlace('page', () => given.value)
  // Only the page that was left is come back to.
  let back = !!left
  const open = () => {
    back = !!left && !view.value
    given.value = { ...(back ? left! : {}), taken: taken() }
    waiting = []
    return ask()
  }

  /** Makes a search again, one on demand for the first time perhaps, and what depends on it. */
  function read(search: string): Promise<boolean> {
    given.value = { ...given.value, loaded: [...new Set([...(given.value.loaded ?? []), search])] }
    waiting = [...new Set([...waiting, search])]
    return ask(waiting)
  }

  const isPart = (key: string) =>
    (view.value?.bands ?? []).some((b) => b.columns.some((c) => c.parts.some((p) => p.key === key)))

  /** Something was entered or chosen. */
  function changed(part: string, answers: Answers): Promise<boolean> {
    given.value = { ...given.value, answers }
    waiting = [...new Set([...waiting, part])]
    return ask(waiting)
  }

  /** A table is looked at another way, which others may depend on. */
  function looked(part: string, look: Look): Promise<boolean> {
    given.value = { ...given.value, looks: { ...given.value.looks, [part]: look } }
    return followed(part)
  }

  /** Rows of a table are being changed, or are no longer. */
  function edited(part: string, rows: number[]): Promise<boolean> {
    given.value = { ...given.value, edited: { ...given.value.edited, [part]: rows } }
    return followed(part)
  }

  /** Asks anew for what depends on more of a table than what is chosen in it. */
  function followed(part: string): Promise<boolean> {
    if (!view.value?.looked.includes(part)) return Promise.resolve(true)
    waiting = [...new Set([...waiting, part])]
    return ask(waiting)
  }

  const source: SurfaceSource = {
    base,
    at: (part) => ({ page: { page: name.value, part, given: given.value } }),
    options: (part, text) =>
      answered(
        seated(base).POST('/pages/{key}/options/{part}', {
          params: { path: { key: name.value, part } },
          body: { text, given: given.value },
        }),
      ),
    effect,
    recordAddress: (object, id) => (base === '/use' ? `/use/record/${object}/${id}` : null),
  }

  return {
    view,
    failed,
    given,
    source,
    open,
    changed,
    looked,
    edited,
    read,
    again: () => ask(),
    busy,
    stop,
    reads,
    /** The page as something that does things by itself. */
    reacting: {
      source,
      place: () => view.value?.key ?? '',
      label: () => view.value?.label ?? '',
      reactions: () => view.value?.reactions ?? [],
      cameBack: () => back,
      read: (part: string) => (isPart(part) ? undefined : read(part)),
    },
  }
}

/** The parts that are the same stay those they were. */
export function merged(before: BandView[], now: BandView[]): BandView[] {
  const was = new Map<string, PartView>()
  for (const b of before) for (const c of b.columns) for (const p of c.parts) was.set(p.key, p)
  return now.map((b) => ({
    ...b,
    columns: b.columns.map((c) => ({
      ...c,
      parts: c.parts.map((p) => (p.same ? (was.get(p.key) ?? p) : p)),
    })),
  }))
}
