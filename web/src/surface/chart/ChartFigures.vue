<script setup lang="ts">
import { computed } from 'vue'
import type { ChartPartView } from '@/api/types'
import { drawn, type Mark } from './series'

/** The figures of a chart as a table: each leads to its proof, each place can be pressed as in the drawing. */
const props = defineProps<{ view: ChartPartView; gives: boolean; picked: (mark: Mark) => boolean }>()
const emit = defineEmits<{ pick: [mark: Mark]; prove: [mark: Mark, event: Event] }>()
const all = computed(() => drawn(props.view))
const heads = computed(() => all.value.series.some((s) => s.name))
</script>

<template>
  <div class="roll">
    <table>
      <thead v-if="heads">
        <tr>
          <td />
          <th v-for="(s, i) in all.series" :key="i" scope="col">{{ s.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(place, i) in all.places" :key="i">
          <th scope="row">{{ place }}</th>
          <td v-for="(s, n) in all.series" :key="n">
            <template v-if="s.marks[i]">
              <button
                v-if="gives"
                type="button"
                class="plain link pick"
                :aria-pressed="picked(s.marks[i]!)"
                @click="emit('pick', s.marks[i]!)"
              >
                {{ picked(s.marks[i]!) ? 'these alone' : 'show' }}
              </button>
              <button
                type="button"
                class="plain says"
                title="Where it comes from"
                @click="emit('prove', s.marks[i]!, $event)"
              >
                {{ s.marks[i]!.says }}
              </button>
            </template>
            <span v-else class="muted">–</span>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.roll {
  overflow: auto;
  max-height: 26rem;
}
table {
  width: auto;
}
th {
  font-weight: 400;
  text-align: left;
}
thead th {
  text-align: right;
  color: var(--muted);
}
th,
td {
  padding: 0.15rem 1rem 0.15rem 0;
}
td {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.pick {
  margin-right: 0.6rem;
}
.says {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
</style>
