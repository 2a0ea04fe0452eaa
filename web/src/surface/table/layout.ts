import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, ref, type Ref as VueRef } from 'vue'
import type { Heading, PartView } from '@/api/types'
import { fieldTypes } from '@/fields/fields'
import type { Buttons } from './buttons'
import type { Table } from './table'
import { askedWidth } from './asked'
import { fitting } from './widths'

/** From how many columns on only those in sight are in the document. */
const many = 20
/** What is drawn beside the columns in sight, and how far is scrolled before others are. */
const beside = 480
const step = 240

/** A column in its place. */
export interface Placed {
  heading: Heading
  at: number
}

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
  const asks = computed(() => def.value.ask ?? [])
  const selects = computed(() => def.value.select !== 'none' && !asks.value.length)
  const numbers = computed(() => table.arrangement.value.numbers ?? false)
  const opens = computed(() => !!def.value.inside)

  /** The room for what is asked for in each row and for its buttons, none when there are none. */
  const acting = computed(() => {
    const pressed = buttons.each.value.reduce((sum, b) => sum + b.label.length * 8 + 26, 0)
    const asked = asks.value.reduce((sum, a) => sum + askedWidth(a), 0)
    return pressed + asked && pressed + asked + 16
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

  const widthTo = (column: number) => before.value + sum(widths.value.slice(0, column))

  /** How many columns stay in sight: fewer than asked for where they would fill the room. */
  const pinned = computed(() => {
    let count = Math.min(table.arrangement.value.pinned ?? 0, widths.value.length)
    const most = (room.width.value - acting.value) * 0.6
    while (count > 0 && room.width.value && widthTo(count) > most) count--
    return count
  })

  /** Where a pinned column stays, undefined for those that scroll. */
  function pinnedAt(column: number): string | undefined {
    return column < pinned.value ? widthTo(column) + 'px' : undefined
  }

  /** Where that stays which stands before the columns, undefined when it scrolls with them. */
  const leads = computed(() => {
    if (!pinned.value) return {}
    const tick = opens.value ? 30 : 0
    return { opens: '0px', tick: tick + 'px', number: tick + (selects.value ? 34 : 0) + 'px' }
  })

  /** What stays in sight at both sides covers no cell that is gone to. */
  const covered = computed(() => ({
    scrollPaddingLeft: (pinned.value && widthTo(pinned.value)) + 'px',
    scrollPaddingRight: acting.value + 'px',
  }))

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
  const cellStyles = computed(() =>
    columns.value.map((c, i) => ({
      textAlign: fieldTypes[c.type].right ? ('right' as const) : ('left' as const),
      left: pinnedAt(i),
      gridColumn: cellsBefore.value + i + 1,
    })),
  )

  const all = computed<Placed[]>(() => columns.value.map((heading, at) => ({ heading, at })))
  const partly = computed(() => all.value.length > many)
  const steps = ref(0)
  useEventListener(
    scroller,
    'scroll',
    () => (steps.value = Math.floor((scroller.value?.scrollLeft ?? 0) / step)),
    { passive: true },
  )
  /** The columns that rows draw: those in sight and near it, those that stay, and high ones. */
  const drawn = computed<Placed[]>(() => {
    if (!partly.value) return all.value
    const from = steps.value * step - beside
    const to = (steps.value + 1) * step + room.width.value + beside
    let left = before.value
    return all.value.filter(({ heading, at }) => {
      const near = left + widths.value[at] > from && left < to
      left += widths.value[at]
      return near || at < pinned.value || fieldTypes[heading.type].high
    })
  })

  /** The place of a column for people who hear the table, where not all of them are there. */
  const colIndex = (column: number) => (partly.value ? cellsBefore.value + column + 1 : undefined)

  /** Scrolls sideways to a column that may not be in the document. */
  function bring(column: number): void {
    const el = scroller.value
    if (!el || !partly.value || column < pinned.value || column >= all.value.length) return
    const [left, right] = [widthTo(column), widthTo(column + 1)]
    const stays = pinned.value ? widthTo(pinned.value) : 0
    if (left < el.scrollLeft + stays) el.scrollLeft = left - stays
    else if (right > el.scrollLeft + room.width.value - acting.value)
      el.scrollLeft = right - room.width.value + acting.value
  }

  return {
    all,
    partly,
    drawn,
    colIndex,
    bring,
    leads,
    cellStyles,
    covered,
    room,
    asks,
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
