import { onMounted, ref, watch } from 'vue'
import { seenAs, titleOf } from '@/api/client'
import type { Arrangement, SavedView } from '@/api/types'
import type { Asking } from './asking'
import type { Table } from './table'

/** The kept views of a table: which there are, which is shown, and what of it is gone. */
export function useViews(table: Table, ask: Asking, place: () => unknown) {
  const all = ref<SavedView[]>([])
  const current = ref('')
  /** What the view names that is not there any more. */
  const lost = ref<string[]>([])

  /** Sentences and totals of fields that are no columns need their headings, too. */
  async function knowAll(body: Arrangement): Promise<void> {
    const { filter, group, order, totals } = body.look
    const paths = [...(filter ?? []).map((c) => c.field), group?.path, ...(order ?? []).map((o) => o.path)]
    const through = new Set(
      [...paths, ...(totals ?? []).map((t) => t.path)]
        .filter((p): p is string => !!p && !table.headingOf(p))
        .map((p) => p.split('.').slice(0, -1).join('.')),
    )
    for (const t of through) table.know((await ask.fields(t)).fields)
  }

  async function show(view: SavedView | null): Promise<void> {
    current.value = view?.name ?? ''
    lost.value = view?.problems ?? []
    const body = view?.body ?? { look: {} }
    await Promise.all([table.apply(body), knowAll(body)])
  }

  /** The view that was there last comes back. */
  async function comeBack(): Promise<void> {
    all.value = (await ask.views().catch(() => ({ views: [] }))).views
    if (all.value[0]) await show(all.value[0])
  }
  onMounted(comeBack)
  watch(place, () => void comeBack())

  /** Shows a view, null for the table as it came; it is what comes back next time. */
  async function open(view: SavedView | null): Promise<void> {
    await show(view)
    if (view?.id && !seenAs()) await ask.use(view.id).catch(() => undefined)
    else table.arrange({})
  }

  /** Keeps what is shown under a name; says why not when it cannot. */
  async function keep(name: string): Promise<string> {
    try {
      table.named()
      const kept = await ask.keep(name, table.arrangement.value)
      all.value = [kept, ...all.value.filter((v) => v.shipped || v.name !== kept.name)]
      current.value = kept.name
      return ''
    } catch (error) {
      return titleOf(error)
    }
  }

  /** Takes a view away; says why not when it cannot. */
  async function remove(view: SavedView): Promise<string> {
    try {
      await ask.remove(view.id)
      all.value = all.value.filter((v) => v.id !== view.id || v.shipped)
      if (current.value === view.name) current.value = ''
      return ''
    } catch (error) {
      return titleOf(error)
    }
  }

  return { all, current, lost, open, keep, remove }
}

export type Views = ReturnType<typeof useViews>
