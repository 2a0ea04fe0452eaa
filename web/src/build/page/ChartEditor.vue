<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Chart } from '@/api/types'
import { fieldTypes, resultOf, type FieldType } from '@/fields/fields'
import { useBuild } from '../build'
import { totalOf, useTotals } from './totals'

/** What the bars of a chart stand for and how long they are. */
const props = defineProps<{ object: string }>()
const chart = defineModel<Chart>({ required: true })
const build = useBuild()
const paths = computed(() => build.paths(props.object, 1))
const groupable = (type: FieldType) =>
  fieldTypes[type].family !== 'file' && type !== 'long_text' && type !== 'money'
const groups = computed(() => paths.value.filter((o) => groupable(resultOf(o.field))))
const dated = computed(() => {
  const by = paths.value.find((o) => o.path === chart.value.by.path)
  return !!by && fieldTypes[resultOf(by.field)].family === 'time'
})
const spans = [
  { key: '', label: 'each day' },
  { key: 'month', label: 'each month' },
  { key: 'year', label: 'each year' },
]
const totals = useTotals(
  () => props.object,
  (type) => !!fieldTypes[type].right,
)

function group(path: string): void {
  const by = paths.value.find((o) => o.path === path)
  const span = by && fieldTypes[resultOf(by.field)].family === 'time' ? 'month' : undefined
  chart.value = { ...chart.value, by: { path, span } }
}

function total(key: string): void {
  chart.value = { ...chart.value, total: totalOf(key) }
}
</script>

<template>
  <div class="row">
    a bar for each
    <Select
      :model-value="chart.by.path"
      :options="groups"
      option-label="label"
      option-value="path"
      size="small"
      aria-label="A bar for each"
      @update:model-value="group"
    />
    <Select
      v-if="dated"
      :model-value="chart.by.span ?? ''"
      :options="spans"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="each day"
      aria-label="How much time a bar takes in"
      @update:model-value="chart = { ...chart, by: { ...chart.by, span: $event || undefined } }"
    />
    as long as
    <Select
      :model-value="chart.total ? `${chart.total.of} ${chart.total.path}` : ''"
      :options="totals"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="how many there are"
      aria-label="How long the bars are"
      @update:model-value="total"
    />
  </div>
</template>
