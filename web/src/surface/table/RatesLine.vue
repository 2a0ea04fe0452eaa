<script setup lang="ts">
import { computed } from 'vue'
import DateInput from '@/fields/DateInput.vue'
import { wallOf } from '@/fields/dates'
import { format } from '@/fields/fields'
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

function on(day: string | null): void {
  if (!day || wallOf(day, false)) void props.table.lookAt({ rates_on: day || undefined })
}
</script>

<template>
  <span class="rates muted">
    converted by the rates of
    <DateInput
      id="rates-on"
      :model-value="groups.rates_on as string"
      label="Day of the rates"
      @update:model-value="on"
    />
    <template v-if="words.length">: {{ words.join(', ') }}</template>
  </span>
</template>

<style scoped>
.rates {
  margin-left: 0.7rem;
}
:deep(.date) {
  width: 9.5rem;
}
</style>
