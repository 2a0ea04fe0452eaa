<script setup lang="ts">
import { IconChevronDown, IconChevronRight } from '@tabler/icons-vue'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import type { Heading, PartView, Ref } from '@/api/types'
import { failure, fieldTypes, format } from '@/fields/fields'
import type { SurfaceSource } from '../source'
import AskedCells from './AskedCells.vue'
import type { Buttons } from './buttons'
import type { Edits } from './edits'
import type { Layout } from './layout'
import PressButton from './PressButton.vue'
import RowCell from './RowCell.vue'
import type { Line, Table } from './table'

/**
 * One row. It is drawn again only when something about it changes: while somebody scrolls,
 * the rows that stay in sight cost nothing.
 */
const props = defineProps<{
  line: Line & { kind: 'row' }
  index: number
  part: PartView
  layout: Layout
  table: Table
  edits: Edits
  buttons: Buttons
  source: SurfaceSource
  chosen: boolean
  /** What was given in the row. */
  given?: Record<string, unknown>
  /** The column with the keyboard, -1 when it is in another row. */
  active: number
  measure: (el: Element | null) => void
}>()
const emit = defineEmits<{
  pick: [event: MouseEvent]
  focused: [column: number]
  edit: [column: number]
  give: [key: string, value: unknown]
}>()
const def = computed(() => props.part.table!)
const row = computed(() => props.line.row)
const open = computed(() => props.table.unfolded.value.has(row.value.id))
const address = computed(() =>
  props.layout.selects.value ? null : props.source.recordAddress(def.value.object, row.value.id),
)

/** The marks of a cell; the first cell has those of its row as well. */
const marksOf = (path: string, first: boolean) =>
  row.value.marks?.filter((m) => m.column === path || (first && !m.column))

const edited = computed(() => props.edits.count.value > 0 && props.edits.rows.value.has(row.value.id))
/** The cells that are drawn: the one with the keyboard in any case. */
const cells = computed(() => {
  const { all, drawn } = props.layout
  if (edited.value) return all.value
  if (props.active < 0 || drawn.value.some((c) => c.at === props.active)) return drawn.value
  return all.value.filter((c) => c.at === props.active || drawn.value.includes(c))
})

/**
 * Most cells are but a text, perhaps one that leads to a record. They need no component of
 * their own, which is what makes scrolling smooth.
 */
function isBare(c: Heading, i: number): boolean {
  if (edited.value) return false
  if (row.value.marks?.some((m) => m.column === c.path || (i === 0 && !m.column))) return false
  return !fieldTypes[c.type].drawn || (c.type === 'choice' && !c.choices?.some((o) => o.colour))
}

function addressOf(c: Heading, i: number): string | null {
  if (c.type === 'person') return null
  if (c.type !== 'reference') return i === 0 ? address.value : null
  const ref = row.value.cells[i] as Ref | null
  return ref?.id && c.object && c.object !== 'person' ? props.source.recordAddress(c.object, ref.id) : null
}

const columnOf = (event: Event) =>
  Number((event.target as HTMLElement).closest<HTMLElement>('[data-column]')?.dataset.column ?? -1)

/** A link of the app is followed without loading the app again. */
function press(event: MouseEvent): void {
  const link = (event.target as HTMLElement).closest('a')
  if (!link) emit('pick', event)
  else if (!link.target && link.origin === location.origin && !event.defaultPrevented) {
    if (event.button || event.ctrlKey || event.metaKey || event.shiftKey || event.altKey) return
    event.preventDefault()
    void router.push(link.pathname + link.search)
  }
}

const router = useRouter()
const colour = computed(() => {
  const mark = row.value.marks?.find((m) => !m.column)
  return mark ? 'marked-' + mark.colour : ''
})
</script>

<template>
  <tr
    :ref="(el) => measure(el as Element | null)"
    role="row"
    :data-index="index"
    :data-line="index"
    :aria-rowindex="line.number + 1"
    :aria-selected="layout.selects.value ? chosen : undefined"
    :class="[colour, { chosen, pick: layout.selects.value }]"
    @click="press"
    @focusin="emit('focused', columnOf($event))"
    @dblclick="emit('edit', columnOf($event))"
  >
    <td
      v-if="layout.opens.value"
      role="gridcell"
      class="opens"
      :class="{ pinned: layout.leads.value.opens }"
      :style="{ left: layout.leads.value.opens }"
    >
      <button
        type="button"
        class="plain"
        tabindex="-1"
        :aria-expanded="open"
        :aria-label="`${def.inside!.label} of ${row.label}`"
        @click.stop="table.unfold(row.id)"
      >
        <component :is="open ? IconChevronDown : IconChevronRight" :size="16" />
      </button>
    </td>
    <td
      v-if="layout.selects.value"
      role="gridcell"
      class="tick"
      :class="{ pinned: layout.leads.value.tick }"
      :style="{ left: layout.leads.value.tick }"
    >
      <input
        :type="def.select === 'one' ? 'radio' : 'checkbox'"
        :checked="chosen"
        tabindex="-1"
        :aria-label="'Choose ' + row.label"
      />
    </td>
    <td
      v-if="layout.numbers.value"
      role="gridcell"
      class="number"
      :class="{ pinned: layout.leads.value.number }"
      :style="{ left: layout.leads.value.number }"
    >
      {{ line.number }}
    </td>
    <template v-for="{ heading: c, at: i } in cells" :key="c.path">
      <td
        v-if="isBare(c, i)"
        role="gridcell"
        class="bare"
        :class="{ pinned: layout.pinnedAt(i), failed: failure(row.cells[i]) }"
        :style="layout.cellStyles.value[i]"
        :data-column="i"
        :aria-colindex="layout.colIndex(i)"
        :tabindex="active === i ? 0 : -1"
        :aria-readonly="!c.editable"
      >
        <a
          v-if="addressOf(c, i)"
          :href="addressOf(c, i)!"
          :target="source.beside ? '_blank' : undefined"
          tabindex="-1"
          >{{ format(c, row.cells[i]) }}</a
        >
        <template v-else>{{ format(c, row.cells[i]) }}</template>
      </td>
      <RowCell
        v-else
        :data-column="i"
        :aria-colindex="layout.colIndex(i)"
        :heading="c"
        :value="edits.valueOf(row, c, i)"
        :marks="marksOf(c.path, i === 0)"
        :changed="edits.has(row, c)"
        :problem="edits.problem(row.id, c.path)"
        :clash="!!edits.clash(row.id, c.path)"
        :source="source"
        :opens="i === 0 ? address : null"
        :tabindex="active === i ? 0 : -1"
        :class="{ pinned: layout.pinnedAt(i) }"
        :style="layout.cellStyles.value[i]"
      />
    </template>
    <td v-if="layout.acting.value" role="gridcell" class="acts">
      <AskedCells
        v-if="layout.asks.value.length"
        :ask="layout.asks.value"
        :values="given ?? {}"
        :label="row.label"
        @give="(key, value) => emit('give', key, value)"
      />
      <PressButton
        v-for="b in buttons.each.value"
        :key="b.key"
        :button="b"
        :buttons="buttons"
        :row="row.id"
      />
    </td>
  </tr>
</template>

<style scoped>
tr {
  display: grid;
  grid-template-columns: var(--tracks);
  background: var(--panel);
  /* As high as a row is taken to be before it is measured, so that most need no other place. */
  min-height: 32px;
  contain: layout;
}
td {
  display: block;
  min-width: 0;
  padding: 0.28rem 0.6rem;
  border-bottom: 1px solid var(--line);
  grid-row: 1;
}
.bare {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bare:focus-visible {
  outline-offset: -2px;
}
.pinned {
  position: sticky;
  z-index: 1;
  background: inherit;
}
.pick {
  cursor: pointer;
}
.pick:hover {
  background: var(--paper);
}
.chosen,
.chosen:hover {
  background: var(--tint);
}
.marked-good td {
  box-shadow: inset 0 -1px var(--good);
}
.marked-care td {
  box-shadow: inset 0 -1px var(--care);
}
.marked-bad td {
  box-shadow: inset 0 -1px var(--bad);
}
.tick {
  padding-right: 0;
}
.tick input {
  accent-color: var(--accent);
  margin: 0;
  vertical-align: -1px;
  pointer-events: none;
}
.opens {
  padding: 0.35rem 0 0 0.4rem;
  color: var(--accent);
}
.acts {
  grid-column: -2 / -1;
  border-inline-start: 1px solid var(--line); /* columns scroll away under it */
  position: sticky;
  right: 0;
  background: inherit;
  white-space: nowrap;
}
.acts button + button {
  margin-left: 0.4rem;
}
.number {
  text-align: right;
  color: var(--muted);
}
</style>
