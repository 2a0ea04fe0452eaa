<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Bars } from '@/api/types'
import { fieldTypes, resultOf, type FieldType } from '@/fields/fields'
import { useBuild } from '../build'
import { spans } from '@/surface/table/words'
import { totalOf, useTotals } from '../page/totals'

/** What the bars of a chart stand for and how long they are. */
const props = withDefaults(
  defineProps<{
    object: string
    what?: string
    size?: string
    /** There need be none, and nothing is said of how large they are. */
    only?: boolean
  }>(),
  {
    what: 'a bar for each',
    size: 'as long as',
  },
)
const chart = defineModel<Bars>({ required: true })
const build = useBuild()
const paths = computed(() => build.paths(props.object, 1))
const groupable = (type: FieldType) =>
  fieldTypes[type].family !== 'file' && type !== 'long_text' && type !== 'money'
const groups = computed(() => paths.value.filter((o) => groupable(resultOf(o.field))))
const dated = computed(() => {
  const by = paths.value.find((o) => o.path === chart.value.by?.path)
  return !!by && fieldTypes[resultOf(by.field)].family === 'time'
})
const chosen = computed(
  () => paths.value.find((o) => o.path === chart.value.by?.path)?.field.type === 'choice',
)
const totals = useTotals(
  () => props.object,
  (type) => !!fieldTypes[type].right,
)

function group(path: string | null): void {
  if (!path) return void (chart.value = { ...chart.value, by: undefined })
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
    {{ what }}
    <Select
      :model-value="chart.by?.path"
      :options="groups"
      option-label="label"
      option-value="path"
      size="small"
      :aria-label="only ? 'And in it one for each' : 'A bar for each'"
      :placeholder="only ? 'nothing' : undefined"
      :show-clear="only"
      @update:model-value="group"
    />
    <Select
      v-if="dated"
      :model-value="chart.by?.span || 'day'"
      :options="spans"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="How much time a bar takes in"
      @update:model-value="chart = { ...chart, by: { ...chart.by!, span: $event } }"
    />
    <label v-if="!only && chosen">
      <input
        type="checkbox"
        :checked="chart.by?.empty ?? false"
        @change="
          chart = {
            ...chart,
            by: { ...chart.by!, empty: ($event.target as HTMLInputElement).checked || undefined },
          }
        "
      />
      those with none too
    </label>
    <template v-if="!only">
      {{ size }}
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
    </template>
  </div>
</template>
