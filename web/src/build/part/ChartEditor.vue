<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Bars, ChartDef, Part } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import BarsEditor from './BarsEditor.vue'
import type { PartEditorProps } from './editor'

/** What is drawn, how, and of which list. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const chart = computed(() => props.part.chart!)
const objectOf = useObjectOf(() => props.step)
const object = computed(() => objectOf(chart.value.source) ?? '')
const ways: { key: ChartDef['drawn']; label: string }[] = [
  { key: 'columns', label: 'columns' },
  { key: 'bars', label: 'bars' },
  { key: 'line', label: 'a line' },
  { key: 'area', label: 'an area' },
  { key: 'shares', label: 'shares of the whole' },
  { key: 'dots', label: 'a dot for each record' },
]
const measured = computed(() =>
  build.paths(object.value, 1).filter((o) => {
    const type = resultOf(o.field)
    return !!fieldTypes[type].right || fieldTypes[type].family === 'time'
  }),
)
const money = computed(() => build.fieldAt(object.value, chart.value.total?.path ?? '')?.type === 'money')
const splits = computed(() => chart.value.drawn !== 'shares')
const stacks = computed(() => ['columns', 'bars', 'area'].includes(chart.value.drawn))

function change(some: Partial<ChartDef>): void {
  emit('change', { chart: { ...chart.value, ...some } })
}

function draw(drawn: ChartDef['drawn']): void {
  const [across, up] = measured.value
  const dots = { across: across?.path ?? '', up: (up ?? across)?.path ?? '' }
  change({ drawn, ...(drawn === 'dots' && !chart.value.dots ? { dots } : {}) })
}

/** What is split is chosen as what there is a bar for is. */
const split = (bars: Bars) => change({ split: bars.by })
</script>

<template>
  <div class="row">
    <Select
      :model-value="chart.drawn"
      :options="ways"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="How it is drawn"
      @update:model-value="draw"
    />
    of
    <KnownPicker
      :model-value="chart.source"
      :place="step"
      kind="list"
      label="What the chart is of"
      placeholder="a list"
      @update:model-value="change({ source: $event })"
    />
  </div>
  <template v-if="object && chart.drawn === 'dots'">
    <div class="row">
      <template v-for="way in ['across', 'up'] as const" :key="way">
        {{ way }}
        <Select
          :model-value="chart.dots?.[way] ?? ''"
          :options="measured"
          option-label="label"
          option-value="path"
          filter
          size="small"
          :aria-label="`What is drawn ${way}`"
          @update:model-value="change({ dots: { ...chart.dots!, [way]: $event } })"
        />
      </template>
    </div>
  </template>
  <template v-else-if="object">
    <BarsEditor
      :model-value="{ by: chart.by, total: chart.total }"
      :object="object"
      what="one for each"
      size="as large as"
      @update:model-value="change"
    />
    <label v-if="money" class="row">
      <input
        type="checkbox"
        :checked="chart.total?.converted ?? false"
        @change="
          change({
            total: {
              ...chart.total!,
              converted: ($event.target as HTMLInputElement).checked || undefined,
            },
          })
        "
      />
      converted to {{ build.contents?.currency }}
    </label>
    <div v-if="splits" class="row">
      <BarsEditor
        only
        :model-value="{ by: chart.split }"
        :object="object"
        what="and in it one for each"
        @update:model-value="split"
      />
      <label v-if="chart.split && stacks">
        <input
          type="checkbox"
          :checked="chart.beside ?? false"
          @change="change({ beside: ($event.target as HTMLInputElement).checked || undefined })"
        />
        side by side
      </label>
    </div>
  </template>
</template>
