<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import type { GroupView, Heading, Look, PartView, RowView } from '@/api/types'
import { has, type Selection } from '../selection'
import type { SurfaceSource } from '../source'
import type { Arranging } from './arranging'
import { withGiven } from './asked'
import type { Asking } from './asking'
import { useCellEditing } from './cellediting'
import type { Buttons } from './buttons'
import CellEditor from './CellEditor.vue'
import type { Edits } from './edits'
import GroupLine from './GroupLine.vue'
import { useGrid } from './grid'
import HeadMenu from './HeadMenu.vue'
import PastePreview from './PastePreview.vue'
import InsideRow from './InsideRow.vue'
import { useLayout } from './layout'
import { useRoom } from './room'
import type { Line, Table } from './table'
import TableHead from './TableHead.vue'
import TableRow from './TableRow.vue'

/** The rows of a table, of which only those in sight are in the document. */
const props = defineProps<{
  part: PartView
  table: Table
  arranging: Arranging
  edits: Edits
  buttons: Buttons
  ask: Asking
  source: SurfaceSource
}>()
const chosen = defineModel<Selection>({ required: true })
const emit = defineEmits<{
  go: []
  filter: [heading: Heading]
  all: []
  prove: [look: Partial<Look>, event: Event]
}>()

const def = computed(() => props.part.table!)
const columns = computed(() => props.table.columns.value)

/** A table that shares its room shows its first lines, and all of them when it has it to itself. */
const room = useRoom()
const short = 12
const few = 8
const whole = computed(() => room.shared.value && room.alone.value !== props.part.key)
const lines = computed<Line[]>(() => {
  const all = props.table.lines.value
  if (!whole.value || room.nested || all.length <= short + 1) return all
  return [...all.slice(0, few), { kind: 'rest', id: 'rest' }]
})

async function showAll(): Promise<void> {
  room.alone.value = props.part.key
  await grid.focus(few, grid.at.value.column)
}

const ids = computed(() => new Set(chosen.value.rows.map((r) => r.id)))
/** What was given in the rows, of tables that ask for it. */
const given = computed(() => new Map(chosen.value.rows.map((r) => [r.id, r.values])))
const isChosen = (row: RowView) => has(chosen.value, ids.value, row)

const scroller = ref<HTMLElement | null>(null)
const layout = useLayout(scroller, () => props.part, props.table, props.buttons)
const { selects, opens } = layout

const virtual = useVirtualizer(
  computed(() => ({
    count: lines.value.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => 32,
    overscan: 12,
    scrollPaddingStart: 34,
  })),
)
// Asked of the ref, a row would be drawn again with every step of scrolling.
const virtualizer = virtual.value
const measure = (el: Element | null) => virtualizer.measureElement(el)
const items = computed(() => virtual.value.getVirtualItems())
const above = computed(() => items.value[0]?.start ?? 0)
const below = computed(() => virtual.value.getTotalSize() - (items.value.at(-1)?.end ?? 0))

// The cell with the focus may scroll so far out of sight that it is taken out of the
// document. The table keeps the keyboard then, and the next arrow leads back to the cell.
const holds = ref(false)
watch(
  items,
  () => {
    if (holds.value && document.activeElement === document.body)
      scroller.value?.focus({ preventScroll: true })
  },
  { flush: 'post' },
)

// What is about to come into sight is read.
watch(items, (seen) => {
  for (const item of seen) {
    const line = lines.value[item.index]
    if (line?.kind === 'more' && !whole.value) void props.table.more(line.group)
  }
})

const grid = useGrid(
  scroller,
  () => lines.value,
  () => columns.value.length,
  (line, column) => {
    if (line >= 0) virtual.value.scrollToIndex(line, { align: 'auto' })
    layout.bring(column)
  },
  { cell: onCellKey, head: onHeadKey },
)
watch(
  () => props.part,
  () => (grid.at.value = { line: 0, column: 0 }),
)

/** A press on a row chooses it and takes the keyboard there. */
function pick(row: RowView, line: number, event: MouseEvent): void {
  choose(row)
  if (!(event.target as HTMLElement).closest('a, button')) props.source.rowPressed?.(props.part.key, row.id)
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-column]')
  if (!(event.target as HTMLElement).closest('a, button'))
    void grid.focus(line, Number(cell?.dataset.column ?? grid.at.value.column))
}

function pressGroup(group: GroupView, line: number): void {
  void props.table.toggle(group)
  void grid.focus(line, 0)
}

function choose(row: RowView): void {
  if (!selects.value || (chosen.value.all && row.apart)) return // it could only be left out
  const ref = { id: row.id, label: row.label }
  const { rows, all } = chosen.value
  if (def.value.select === 'one') chosen.value = { rows: [ref], all: null }
  else if (ids.value.has(row.id)) chosen.value = { rows: rows.filter((r) => r.id !== row.id), all }
  else if (all || !def.value.most || rows.length < def.value.most)
    chosen.value = { rows: [...rows, ref], all }
}

const cells = useCellEditing(
  scroller,
  props.table,
  props.edits,
  props.ask,
  () => selects.value,
  () => grid,
)

function onCellKey(at: number, column: number, event: KeyboardEvent): boolean {
  const line = lines.value[at]
  if (line?.kind === 'group') {
    if (event.altKey && event.key === 'Enter') {
      emit('prove', { within: line.group.key ?? null }, event)
      return true
    }
    if (event.key === 'Delete') {
      props.arranging.hideGroup(line.group.key)
      return true
    }
    const wanted = { ArrowRight: true, ArrowLeft: false, Enter: !line.open, ' ': !line.open }[event.key]
    if (wanted === undefined || wanted === line.open) return false
    void props.table.toggle(line.group)
    return true
  }
  if (line?.kind === 'rest' && event.key === 'Enter') {
    void showAll()
    return true
  }
  if (line?.kind !== 'row') return false
  if (opens.value && event.altKey && event.key === 'ArrowDown') {
    props.table.unfold(line.row.id)
    return true
  }
  if (cells.key(at, column, event)) return true
  if (event.key === ' ') {
    choose(line.row)
    return selects.value
  }
  if (event.key !== 'Enter') return false
  if (props.source.rowPressed?.(props.part.key, line.row.id)) return true
  const link = (event.target as HTMLElement).querySelector<HTMLElement>('a, button')
  if (def.value.select === 'none' && link) link.click()
  else if (def.value.select === 'one' && !isChosen(line.row)) choose(line.row)
  else if (selects.value) emit('go')
  return true
}

/** The keyboard stays on a column that is moved. */
async function moved(path: string, step: number): Promise<void> {
  const from = grid.at.value.column
  await props.arranging.moveBy(path, step)
  if (grid.at.value.line !== -1 || grid.at.value.column !== from) return
  headAgain(columns.value.findIndex((c) => c.path === path))
}

function onHeadKey(column: number, event: KeyboardEvent): boolean {
  const heading = columns.value[column]
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (step && event.altKey && event.shiftKey)
    props.arranging.width(heading.path, layout.widths.value[column] + step * 16)
  else if (step && event.altKey) {
    void moved(heading.path, step)
  } else if (event.key === 'Enter') props.arranging.orderBy(heading.path, event.shiftKey)
  else if (event.key === 'ArrowDown' && event.altKey) menu.value?.open(event, column)
  else return false
  return true
}

const menu = ref<InstanceType<typeof HeadMenu> | null>(null)

/** The keyboard goes back to the head of a column, unless a press took it elsewhere. */
function headAgain(column: number): void {
  const at = document.activeElement
  if (!at || at === document.body || scroller.value?.contains(at) || at.closest('[role=menu]'))
    void grid.focus(-1, column)
}

// Another list begins at its top.
watch(
  () => JSON.stringify({ ...props.table.shown.value, totals: undefined, columns: undefined }),
  () => scroller.value && (scroller.value.scrollTop = 0),
)

/** Where the rows are scrolled to, and which cell has the keyboard. */
const place = () => ({
  top: scroller.value?.scrollTop ?? 0,
  page: document.documentElement.scrollTop,
  ...grid.at.value,
})

/** Goes back to such a place. */
async function goTo(to: ReturnType<typeof place>): Promise<void> {
  await nextTick()
  document.documentElement.scrollTop = to.page
  if (scroller.value) scroller.value.scrollTop = to.top
  if (to.line >= 0) await grid.focus(to.line, to.column)
}

defineExpose({ focus: () => grid.focus(0, 0), place, goTo })
</script>

<template>
  <div
    ref="scroller"
    tabindex="-1"
    :style="layout.covered.value"
    class="scroll"
    :class="{ busy: table.busy.value, whole: whole || lines.length <= short }"
    :aria-busy="table.busy.value"
    @focusin="holds = true"
    @focusout="holds = false"
    @keydown="grid.key"
    @paste="cells.paste"
    @copy="cells.copy"
  >
    <table
      role="grid"
      :aria-labelledby="part.label ? 'h-' + part.key : undefined"
      :aria-label="part.label ? undefined : 'Table'"
      :aria-rowcount="table.counted.value ? table.total.value + 1 : -1"
      :aria-colcount="layout.partly.value ? layout.cellsBefore.value + columns.length : undefined"
      :aria-multiselectable="def.select === 'several' || undefined"
      :style="{ width: layout.whole.value + 'px', '--tracks': layout.tracks.value }"
    >
      <TableHead
        v-model="chosen"
        :part="part"
        :table="table"
        :arranging="arranging"
        :layout="layout"
        :active="grid.at.value.line === -1 ? grid.at.value.column : -1"
        @all="emit('all')"
        @focused="grid.at.value = { line: -1, column: $event }"
        @menu="(event, column) => menu?.open(event, column)"
      />
      <tbody role="rowgroup">
        <tr v-if="above" class="across" aria-hidden="true" :style="{ height: above + 'px' }" />
        <template v-for="item in items" :key="item.index">
          <template v-for="line in [lines[item.index]]" :key="line?.id">
            <GroupLine
              v-if="line?.kind === 'group'"
              :ref="(c) => measure((c as { $el?: Element } | null)?.$el ?? null)"
              :data-index="item.index"
              :data-line="item.index"
              :line="line"
              :table="table"
              :active="grid.at.value.line === item.index"
              @press="pressGroup(line.group, item.index)"
              @hide="arranging.hideGroup(line.group.key)"
              @prove="(l, event) => emit('prove', l, event)"
              @focused="grid.at.value = { line: item.index, column: grid.at.value.column }"
            />
            <TableRow
              v-else-if="line?.kind === 'row'"
              :line="line"
              :index="item.index"
              :part="part"
              :layout="layout"
              :table="table"
              :edits="edits"
              :buttons="buttons"
              :source="source"
              :chosen="isChosen(line.row)"
              :given="given.get(line.row.id)"
              :active="grid.at.value.line === item.index ? grid.at.value.column : -1"
              :measure="measure"
              @pick="pick(line.row, item.index, $event)"
              @focused="$event >= 0 && (grid.at.value = { line: item.index, column: $event })"
              @edit="$event >= 0 && cells.edit(item.index, $event)"
              @give="
                (key, value) => (chosen = { rows: withGiven(chosen.rows, line.row, key, value), all: null })
              "
            />
            <tr
              v-else-if="line?.kind === 'inside'"
              :ref="(el) => measure(el as Element | null)"
              class="across"
              role="row"
              :data-index="item.index"
              :data-line="item.index"
            >
              <td
                class="inside"
                role="gridcell"
                :style="{ '--nested-width': layout.room.width.value + 'px' }"
              >
                <InsideRow :part="part" :row="line.row" :source="source" />
              </td>
            </tr>
            <tr
              v-else
              :ref="(el) => measure(el as Element | null)"
              class="across"
              role="row"
              :data-index="item.index"
              :data-line="item.index"
            >
              <td class="muted" role="gridcell" data-column="0" tabindex="-1">
                <button v-if="line?.kind === 'rest'" type="button" class="plain link" @click="showAll">
                  Show all
                  <template v-if="table.counted.value && !table.shown.value.group">{{
                    table.total.value.toLocaleString()
                  }}</template>
                </button>
                <button
                  v-else-if="whole && line"
                  type="button"
                  class="plain link"
                  @click="table.more((line as { group?: string }).group)"
                >
                  Show more
                </button>
                <template v-else>Reading on …</template>
              </td>
            </tr>
          </template>
        </template>
        <tr v-if="below > 0" class="across" aria-hidden="true" :style="{ height: below + 'px' }" />
      </tbody>
    </table>
    <slot />
    <CellEditor
      v-if="cells.editing.value"
      :heading="cells.editing.value.heading"
      :value="edits.valueOf(cells.editing.value.row, cells.editing.value.heading, cells.editing.value.column)"
      :cell="cells.editing.value.cell"
      :typed="cells.editing.value.typed"
      :find="cells.find"
      @done="cells.edited"
      @cancel="cells.cancelled"
      @save="edits.save()"
    />
    <PastePreview
      v-if="cells.pasting.value"
      :pasting="cells.pasting.value"
      @take="cells.takePasted"
      @close="cells.pasting.value = null"
    />
    <HeadMenu
      ref="menu"
      :table="table"
      :arranging="arranging"
      @filter="emit('filter', $event)"
      @closed="headAgain"
    />
  </div>
</template>

<style scoped>
.scroll:focus {
  outline: none; /* it holds the keyboard for a moment between two cells */
}
.scroll {
  overflow: auto;
  max-height: var(--table-height, 24rem);
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  background: var(--panel);
  overflow-anchor: none;
  /* Under the pointer the table scrolls or the page does, never one after the other. */
  overscroll-behavior-y: contain;
}
.whole {
  max-height: none;
}
.busy {
  opacity: 0.6;
  transition: opacity 0s 0.3s;
}
/*
 * Each row lays itself out by the same tracks. In a table laid out as such every new row
 * makes the browser place all of them anew, which is felt when scrolling.
 */
table,
tbody,
.across {
  display: block;
}
table {
  min-width: 100%;
}
td {
  display: block;
  padding: 0.28rem 0.6rem;
  border-bottom: 1px solid var(--line);
}
.inside {
  padding: 0;
}
</style>
