import { useElementSize } from '@vueuse/core'
import { computed, type Ref as VueRef } from 'vue'
import type { PartView } from '@/api/types'
import { alignment } from '../format'
import type { Buttons } from './buttons'
import type { Table } from './table'
import { fitting } from './widths'

/** How a table lies in the room there is: what stands beside its columns, and their widths. */
export function useLayout(
  scroller: VueRef<HTMLElement | null>,
  part: () => PartView,
  table: Table,
  buttons: Buttons,
) {
  const room = useElementSize(scroller)
  const def = computed(() => part().table!)
  const columns = computed(() => table.columns.value)
  const selects = computed(() => def.value.select !== 'none')
  const numbers = computed(() => table.arrangement.value.numbers ?? false)
  const opens = computed(() => !!def.value.inside)

  /** The room for the buttons in each row, none when there are none. */
  const acting = computed(() => {
    const each = buttons.each.value
    return each.length ? each.reduce((sum, b) => sum + b.label.length * 8 + 26, 16) : 0
  })
  const before = computed(() => (opens.value ? 30 : 0) + (selects.value ? 34 : 0) + (numbers.value ? 52 : 0))
  const cellsBefore = computed(() => [opens.value, selects.value, numbers.value].filter(Boolean).length)
  /** Common headings over neighbouring columns, none when no column has one. */
  const aboves = computed(() => {
    const out: { above: string; count: number }[] = []
    for (const c of columns.value) {
      const last = out.at(-1)
      if (last && last.above === (c.above ?? '')) last.count++
      else out.push({ above: c.above ?? '', count: 1 })
    }
    return out.some((a) => a.above) ? out : []
  })

  const sum = (widths: number[]) => widths.reduce((a, b) => a + b, 0)
  // The first rows say how wide columns are; those read later leave them as they are.
  const natural = computed(() => {
    const set = table.arrangement.value.widths ?? {}
    return columns.value.map((c, i) => set[c.path] ?? fitting(c, i, table.first.value))
  })
  const widths = computed(() => {
    const set = table.arrangement.value.widths ?? {}
    const spare = room.width.value - before.value - acting.value - sum(natural.value)
    // What is left over goes to the columns whose width nobody set.
    const free = columns.value.filter((c) => !set[c.path]).length
    return natural.value.map((w, i) =>
      spare > 0 && !set[columns.value[i].path] ? Math.floor(w + spare / free) : w,
    )
  })
  const whole = computed(() => before.value + acting.value + sum(widths.value))

  /** Where a pinned column stays, undefined for those that scroll. */
  function pinnedAt(column: number): string | undefined {
    if (column >= (table.arrangement.value.pinned ?? 0)) return undefined
    return before.value + sum(widths.value.slice(0, column)) + 'px'
  }

  /** The tracks that all rows are laid out by. */
  const tracks = computed(() =>
    [
      opens.value && '30px',
      selects.value && '34px',
      numbers.value && '52px',
      ...widths.value.map((w, i) => (i === widths.value.length - 1 ? `minmax(${w}px, 1fr)` : w + 'px')),
      acting.value && acting.value + 'px',
    ]
      .filter(Boolean)
      .join(' '),
  )
  const pins = computed(() => !!table.arrangement.value.pinned)
  const cellStyles = computed(() =>
    columns.value.map((c, i) => ({ textAlign: alignment(c), left: pinnedAt(i) })),
  )

  return {
    pins,
    cellStyles,
    room,
    selects,
    numbers,
    opens,
    acting,
    cellsBefore,
    tracks,
    aboves,
    widths,
    whole,
    pinnedAt,
  }
}

export type Layout = ReturnType<typeof useLayout>
