import { useConfirm } from 'primevue/useconfirm'
import { useToast } from 'primevue/usetoast'
import { computed, ref, shallowRef, triggerRef, watch } from 'vue'
import { titleOf } from '@/api/client'
import { silent, useReachHere } from '@/api/reach'
import type { ButtonView, Effect, PartView, RowView } from '@/api/types'
import { useAround } from '../around'
import { inOrder } from '../inorder'
import { save } from '../save'
import { brief, say } from '../sentence'
import { chosenOf, type Selection } from '../selection'
import type { SurfaceSource } from '../source'
import type { Asking } from './asking'
import type { Table } from './table'

/** The buttons of a table: whether they are offered for what is chosen, and pressing them. */
export function useButtons(
  part: () => PartView,
  table: Pick<Table, 'rows' | 'look' | 'again'>,
  ask: Asking,
  source: () => SurfaceSource,
  chosen: () => { selection: Selection; count: number },
  changed: () => void,
) {
  const toast = useToast()
  const confirm = useConfirm()
  const all = computed(() => part().table?.buttons ?? [])
  const above = computed(() => all.value.filter((b) => b.on !== 'each'))
  const each = computed(() => all.value.filter((b) => b.on === 'each'))

  /** By button, the rows where its condition does not hold. */
  const off = shallowRef<Record<string, Set<number>>>({})
  // Rows as they were when they were asked about; a row that is read again is another.
  let asked = new WeakSet<RowView>()
  watch(
    () => table.rows.value,
    async (rows) => {
      const fresh = all.value.length ? rows.filter((r) => !asked.has(r)) : []
      if (!fresh.length) return
      fresh.forEach((r) => asked.add(r))
      const found = await ask.off(fresh.map((r) => r.id)).catch(() => null)
      if (!found) {
        asked = new WeakSet()
        return
      }
      // A row that was read again since has a later answer.
      const there = new Set(table.rows.value)
      const still = new Set(fresh.filter((r) => there.has(r)).map((r) => r.id))
      for (const [key, ids] of Object.entries(found.off)) {
        const now = (off.value[key] ??= new Set())
        still.forEach((id) => now.delete(id))
        ids.filter((id) => still.has(id)).forEach((id) => now.add(id))
      }
      triggerRef(off)
    },
    { immediate: true },
  )

  /** Why a button cannot be pressed now, empty when it can. */
  function why(b: ButtonView, row?: number): string {
    if (row !== undefined) return off.value[b.key]?.has(row) ? whyOff(b) : ''
    const { selection, count } = chosen()
    if (b.on === 'table') return ''
    if (!count) return b.on === 'one' ? 'Choose a row first.' : 'Choose one row or several first.'
    if (b.on === 'one' && count > 1) return 'This is about one row; choose just one.'
    const { least = 0, most = 0 } = part().table ?? {}
    if (b.on === 'some' && count < least) return `Choose at least ${least} rows.`
    if (b.on === 'some' && most && count > most) return `Choose no more than ${most} rows.`
    const bad = selection.all ? 0 : selection.rows.filter((r) => off.value[b.key]?.has(r.id)).length
    if (!bad) return ''
    return count > 1 ? `${bad} of the ${count} rows: ${whyOff(b)}` : whyOff(b)
  }

  const whyOff = (b: ButtonView) => b.why || `“${b.label}” is not offered for this row.`

  /** Downloads the rows that match, or those chosen. */
  async function download(format = 'csv', rows?: ReturnType<typeof chosenOf>): Promise<void> {
    const file = await ask.out({
      look: table.look.value,
      format,
      name: part().label ?? 'table',
      chosen: rows,
    })
    save(ask.fileAddress(file.id))
  }
  const around = useAround(part().key, { read: () => void table.again(), download })
  /** The buttons that are being carried out, by key and row. */
  const busy = ref<string[]>([])
  const place = (b: ButtonView, row?: number) => `${b.key} ${row ?? ''}`
  /** What is shown while a button is carried out, empty when it is not. */
  const holds = (b: ButtonView, row?: number) =>
    busy.value.includes(place(b, row)) ? (lost.value ? silent : b.hold) : ''
  const { lost, reach, gone } = useReachHere()

  async function carryOut(
    b: ButtonView,
    what: ReturnType<typeof chosenOf>,
    row?: number,
    confirmed: number[] = [],
  ): Promise<void> {
    busy.value = [...busy.value, place(b, row)]
    try {
      const done = await reach(() => ask.press(b.key, what, confirmed))
      const asked = done.effects.find((e) => e.kind === 'confirm')
      if (asked) {
        const again = () => void carryOut(b, what, row, [...confirmed, asked.line ?? 0])
        question(b.label, say(asked.message), asked.yes || 'Go on', again)
        return
      }
      await inOrder(done.effects, (e) => effect(e, b, what))
      const said = done.effects.filter((e) => e.kind === 'say')
      for (const e of said.filter((e) => e.as)) toast.add(brief(e))
      const says = said
        .filter((e) => !e.as)
        .map((e) => say(e.message))
        .join(' ')
      if (done.changed || says)
        toast.add({
          severity: 'info',
          summary: says || b.label,
          detail: done.changed
            ? `${done.changed.toLocaleString()} ${done.changed === 1 ? 'record was' : 'records were'} changed.`
            : undefined,
          life: 5000,
        })
      if (done.trace)
        source().tried?.({ by: `“${b.label}” was pressed`, changed: done.changed, trace: done.trace })
      if (done.put_back) source().pressed?.({ part: part().key, button: b.key, chosen: what, confirmed })
      if (!done.changed) return
      await table.again()
      changed()
    } catch (error) {
      if (!gone()) toast.add({ severity: 'warn', summary: 'Not done', detail: titleOf(error), life: 8000 })
    } finally {
      busy.value = busy.value.filter((k) => k !== place(b, row))
    }
  }

  /** Puts a question of the button's; whoever says no leaves it. */
  function question(header: string, message: string, yes: string, accept: () => void): void {
    confirm.require({
      defaultFocus: 'reject',
      header,
      message,
      acceptLabel: yes,
      rejectLabel: 'Leave it',
      rejectProps: { outlined: true },
      accept,
    })
  }

  async function effect(e: Effect, b: ButtonView, what: ReturnType<typeof chosenOf>): Promise<void> {
    if (e.kind === 'download' && (e.part || e.record)) await around?.download(e)
    else if (e.kind === 'download')
      await download(e.format, b.on === 'table' ? undefined : what) // what it is about, not all there is
    else if (e.kind === 'copy_link') {
      const links = (what.keys ?? []).map((id) => source().recordAddress(part().table!.object, id))
      const rows = links.flatMap((l) => (l ? [new URL(l, location.origin).href] : []))
      await navigator.clipboard.writeText(rows.join('\n') || location.href)
      const summary = rows.length > 1 ? `${rows.length} links were copied` : 'The link was copied'
      toast.add({ severity: 'info', summary, life: 3000 })
    } else if (e.kind === 'set') around?.set(e.part!, e.value)
    else if (e.kind === 'read_again') around?.again(e.part)
    else if (e.kind !== 'say') source().effect?.(e)
  }

  function press(b: ButtonView, row?: number): void {
    const reason = why(b, row)
    if (reason) {
      toast.add({ severity: 'info', summary: b.label, detail: reason, life: 5000 })
      return
    }
    const what = b.on === 'table' ? {} : row === undefined ? chosenOf(chosen().selection) : { keys: [row] }
    if (!b.confirm) {
      void carryOut(b, what, row)
      return
    }
    const { count } = chosen()
    const message = b.confirm.replace('{n}', String(row === undefined ? count : 1))
    question(b.label, message, b.label, () => void carryOut(b, what, row))
  }

  return { above, each, why, press, holds }
}

export type Buttons = ReturnType<typeof useButtons>
