<script setup lang="ts">
import { IconChevronDown, IconChevronRight } from '@tabler/icons-vue'
import { computed } from 'vue'
import type { Look, LookTotal } from '@/api/types'
import FigureList from './FigureList.vue'
import type { Line, Table } from './table'
import { groupWords } from './words'

/** The head of a group: what its records have in common, how many they are, their totals. */
const props = defineProps<{ line: Line & { kind: 'group' }; table: Table; active: boolean }>()
const emit = defineEmits<{ press: []; focused: []; hide: []; prove: [look: Partial<Look>, event: Event] }>()
/** The proof of a figure of this group, or of the group. */
const prove = (event: Event, total?: LookTotal) =>
  emit('prove', { within: props.line.group.key ?? null, ...(total ? { totals: [total] } : {}) }, event)
const by = computed(() => props.table.shown.value.group!)
const heading = computed(() => props.table.headingOf(by.value.path))
const name = computed(() => groupWords(props.line.group, by.value, heading.value))
</script>

<template>
  <tr class="group" role="row">
    <td
      role="gridcell"
      data-column="0"
      :tabindex="active ? 0 : -1"
      :aria-expanded="line.open"
      @click="emit('press')"
      @focus="emit('focused')"
    >
      <span class="line">
        <component
          :is="line.open ? IconChevronDown : IconChevronRight"
          v-if="!by.fixed"
          :size="15"
          aria-hidden="true"
        />
        <strong>{{ name }}</strong>
        <button
          type="button"
          class="plain count"
          tabindex="-1"
          title="Where they come from"
          @click.stop="prove($event)"
        >
          {{ (line.group.count + line.moved).toLocaleString() }}
        </button>
        <span v-if="line.moved" class="care"
          >{{ line.moved > 0 ? '+' : '−' }}{{ Math.abs(line.moved) }} not saved</span
        >
        <FigureList
          in-grid
          :figures="line.group.totals"
          :table="table"
          @prove="(t, event) => prove(event, t)"
        />
        <button type="button" class="plain link hide" tabindex="-1" @click.stop="emit('hide')">
          leave out
        </button>
      </span>
    </td>
  </tr>
</template>

<style scoped>
.group {
  display: block;
}
td {
  display: block;
  padding: 0.32rem 0.6rem;
  border-bottom: 1px solid var(--line);
  background: var(--paper);
  cursor: pointer;
}
td:focus-visible {
  outline-offset: -2px;
}
.count {
  color: var(--muted);
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.hide {
  opacity: 0;
  font-size: 0.85rem;
}
.group:hover .hide,
.hide:focus-visible {
  opacity: 1;
}
.line {
  display: flex;
  align-items: center;
  gap: 0.5rem;
  position: sticky;
  left: 0.6rem;
  width: max-content;
}
</style>
