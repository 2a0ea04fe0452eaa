<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Heading, PartView } from '@/api/types'
import { nothing, type Selection } from '../selection'
import type { Arranging } from './arranging'
import HeadCell from './HeadCell.vue'
import { askedWidth } from './asked'
import type { Layout } from './layout'
import type { Table } from './table'

/** The head of a table: common headings, headings, and the mark that chooses all. */
const props = defineProps<{
  part: PartView
  table: Table
  arranging: Arranging
  layout: Layout
  /** The column with the keyboard, -1 when it is elsewhere. */
  active: number
}>()
const chosen = defineModel<Selection>({ required: true })
const emit = defineEmits<{ all: []; focused: [column: number]; menu: [event: Event, column: number] }>()
const def = computed(() => props.part.table!)
const look = computed(() => props.table.shown.value)

const dragged = ref(-1)

function drop(column: number): void {
  const path = props.table.columns.value[dragged.value]?.path
  if (path && dragged.value !== column) void props.arranging.move(path, column)
  dragged.value = -1
}

function ariaSort(c: Heading): 'ascending' | 'descending' | 'none' {
  const order = look.value.order?.find((o) => o.path === c.path)
  return order ? (order.desc ? 'descending' : 'ascending') : 'none'
}
</script>

<template>
  <thead role="rowgroup">
    <tr v-if="layout.aboves.value.length" class="aboves" role="row">
      <td v-if="layout.cellsBefore.value" :style="{ gridColumn: `span ${layout.cellsBefore.value}` }" />
      <th
        v-for="(a, i) in layout.aboves.value"
        :key="i"
        :style="{ gridColumn: `span ${a.count}` }"
        role="columnheader"
      >
        {{ a.above }}
      </th>
      <td v-if="layout.acting.value" />
    </tr>
    <tr data-line="-1" role="row">
      <th
        v-if="layout.opens.value"
        role="columnheader"
        :class="{ pinned: layout.leads.value.opens }"
        :style="{ left: layout.leads.value.opens }"
      >
        <span class="visually-hidden">Opens</span>
      </th>
      <th
        v-if="layout.selects.value"
        role="columnheader"
        class="tick"
        :class="{ pinned: layout.leads.value.tick }"
        :style="{ left: layout.leads.value.tick }"
      >
        <input
          v-if="def.select === 'several'"
          type="checkbox"
          :checked="!!chosen.all && !chosen.rows.length"
          :indeterminate.prop="!!chosen.rows.length"
          aria-label="Choose all that match"
          title="Choose all that match"
          @change="chosen.all ? (chosen = nothing()) : emit('all')"
        />
        <span v-else class="visually-hidden">Chosen</span>
      </th>
      <th
        v-if="layout.numbers.value"
        role="columnheader"
        class="number"
        :class="{ pinned: layout.leads.value.number }"
        :style="{ left: layout.leads.value.number }"
      >
        <span class="visually-hidden">Number</span>
      </th>
      <th
        v-for="(c, i) in table.columns.value"
        :key="c.path"
        role="columnheader"
        :data-column="i"
        :aria-sort="ariaSort(c)"
        :aria-colindex="layout.colIndex(i)"
        :tabindex="active === i ? 0 : -1"
        :class="{ pinned: layout.pinnedAt(i), over: dragged >= 0 && dragged !== i }"
        :style="{ left: layout.pinnedAt(i) }"
        draggable="true"
        @focus="emit('focused', i)"
        @dragstart="dragged = i"
        @dragend="dragged = -1"
        @dragover.prevent
        @drop.prevent="drop(i)"
      >
        <HeadCell
          :heading="c"
          :look="look"
          :width="layout.widths.value[i]"
          @sort="arranging.orderBy(c.path, $event)"
          @menu="emit('menu', $event, i)"
          @resize="arranging.width(c.path, $event)"
          @fit="arranging.fit(c.path)"
        />
      </th>
      <th v-if="layout.acting.value" role="columnheader" class="acts">
        <span
          v-for="a in layout.asks.value"
          :key="a.key"
          class="asked"
          :style="{ width: askedWidth(a) + 'px' }"
          >{{ a.label }}</span
        >
        <span v-if="!layout.asks.value.length" class="visually-hidden">Buttons</span>
      </th>
    </tr>
  </thead>
</template>

<style scoped>
thead {
  display: block;
  position: sticky;
  top: 0;
  z-index: 2;
}
tr {
  display: grid;
  grid-template-columns: var(--tracks);
  background: var(--panel);
}
th {
  display: block;
  position: relative; /* for its grip */
  background: var(--panel);
  border-bottom: 1px solid var(--line);
  padding: 0.35rem 0.6rem;
  text-align: left;
  min-width: 0;
}
.aboves th {
  text-align: center;
  color: var(--muted);
  font-weight: 600;
  border-left: 1px solid var(--line);
  padding: 0.2rem 0.6rem;
}
th.over:hover {
  box-shadow: inset 2px 0 var(--accent);
}
th.pinned {
  position: sticky;
  z-index: 3;
}
.tick {
  padding-right: 0;
}
.tick input {
  accent-color: var(--accent);
  margin: 0;
  vertical-align: -1px;
}
.number {
  text-align: right;
  color: var(--muted);
}
.asked {
  display: inline-block;
  padding-right: 0.4rem;
}
th.acts {
  white-space: nowrap;
  border-inline-start: 1px solid var(--line);
  position: sticky;
  right: 0;
}
</style>
