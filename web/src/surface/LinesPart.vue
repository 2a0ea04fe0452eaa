<script setup lang="ts">
import { computed } from 'vue'
import type { PartView } from '@/api/types'
import CellValue from '@/fields/CellValue.vue'
import { fieldTypes } from '@/fields/fields'
import type { SurfaceSource } from './source'

/** The rows of a list that was put together, to be read over, with the totals of their columns. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ part: PartView; source: SurfaceSource }>()
const lines = computed(() => props.part.lines!)
const right = (i: number) => ({ right: fieldTypes[lines.value.headings[i].type].right })
const aboves = computed(() => {
  const out: { above: string; count: number }[] = []
  for (const h of lines.value.headings) {
    const last = out.at(-1)
    if (last && last.above === (h.above ?? '')) last.count++
    else out.push({ above: h.above ?? '', count: 1 })
  }
  return out.some((a) => a.above) ? out : []
})
</script>

<template>
  <section>
    <h2 v-if="part.label" :id="'h-' + part.key">{{ part.label }}</h2>
    <p v-if="!lines.rows.length" class="muted">{{ lines.nothing || 'There is nothing in this list.' }}</p>
    <div v-else class="wide">
      <table :aria-labelledby="part.label ? 'h-' + part.key : undefined">
        <thead>
          <tr v-if="aboves.length">
            <th v-for="(a, i) in aboves" :key="i" :colspan="a.count" scope="colgroup">{{ a.above }}</th>
          </tr>
          <tr>
            <th v-for="(h, i) in lines.headings" :key="h.path" scope="col" :class="right(i)">
              {{ h.label }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, n) in lines.rows" :key="n">
            <td v-for="(v, i) in row" :key="i" :class="right(i)">
              <CellValue v-if="v !== null" :heading="lines.headings[i]" :value="v" :source="source" />
            </td>
          </tr>
        </tbody>
        <tfoot v-if="lines.totals">
          <tr>
            <td v-for="(sums, i) in lines.totals" :key="i" :class="right(i)">
              <template v-if="i === 0 && !sums.length">Total</template>
              <div v-for="(sum, n) in sums" :key="n">
                <CellValue :heading="lines.headings[i]" :value="sum" />
              </div>
            </td>
          </tr>
        </tfoot>
      </table>
    </div>
  </section>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  min-width: 100%;
}
th,
td {
  padding: 0.3rem 0.6rem;
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
  font-variant-numeric: tabular-nums;
}
th:first-child,
td:first-child {
  padding-left: 0;
}
thead th {
  color: var(--muted);
  font-weight: 600;
  border-bottom-color: var(--ink);
}
tfoot td {
  font-weight: 600;
  border-bottom: 0;
}
.right {
  text-align: right;
  white-space: nowrap;
}
</style>
