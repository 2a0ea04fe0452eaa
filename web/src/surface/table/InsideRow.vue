<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import type { PartView, RowView } from '@/api/types'
import type { SurfaceSource } from '../source'
import { asking } from './asking'
import RowCards from './RowCards.vue'

// A table that lies in a table that lies in a table …
const NestedTable = defineAsyncComponent(() => import('./NestedTable.vue'))
const InsideChart = defineAsyncComponent(() => import('./InsideChart.vue'))

/** What a row of a table opens to: a table of its own, cards, or a chart. */
const props = defineProps<{ part: PartView; row: RowView; source: SurfaceSource }>()
const inside = computed(() => props.part.table!.inside!)
// It is the same part that is asked, further in.
const inner = computed<PartView>(() => ({
  key: props.part.key,
  kind: 'table',
  label: inside.value.label,
  table: inside.value.table,
}))

const source = computed<SurfaceSource>(() => ({
  ...props.source,
  at: (part) => {
    const outer = props.source.at(part)
    return { ...outer, inside: [...(outer.inside ?? []), props.row.id] }
  },
}))
const ask = asking(
  () => source.value,
  () => props.part.key,
)
</script>

<template>
  <div class="nested" @keydown.stop>
    <NestedTable v-if="inside.shows === 'table'" :part="inner" :source="source" :ask="ask" />
    <RowCards v-else-if="inside.shows === 'cards'" :part="inner" :source="source" :ask="ask" />
    <InsideChart v-else-if="inside.chart" :part="inner" :bars="inside.chart" :source="source" :ask="ask" />
  </div>
</template>

<style scoped>
.nested {
  padding: 0.5rem 0.6rem 0.9rem 1.8rem;
  border-left: 2px solid var(--accent);
  --table-height: 18rem;
  position: sticky;
  left: 0;
  max-width: var(--nested-width);
  box-sizing: border-box;
}
</style>
