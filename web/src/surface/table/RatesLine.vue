<script setup lang="ts">
import { computed } from 'vue'
import { format } from '../format'
import type { Table } from './table'

/** Which rates amounts are converted by; another day's can be asked for. */
const props = defineProps<{ table: Table }>()
const groups = computed(() => props.table.groups.value!)
const day = (v: unknown) => format({ type: 'date' }, v)

const words = computed(() =>
  (groups.value.rates ?? []).map((r) =>
    r.rate
      ? `1 ${r.currency} = ${r.rate} ${props.table.converts.value} (${day(r.day)})`
      : `${r.currency} has no rate`,
  ),
)

function on(value: string): void {
  void props.table.lookAt({ rates_on: value || undefined })
}
</script>

<template>
  <span class="rates muted">
    converted by the rates of
    <input
      type="date"
      :value="groups.rates_on as string"
      aria-label="Day of the rates"
      @change="on(($event.target as HTMLInputElement).value)"
    />
    <template v-if="words.length">: {{ words.join(', ') }}</template>
  </span>
</template>

<style scoped>
.rates {
  margin-left: 0.7rem;
}
input {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--line);
}
</style>
