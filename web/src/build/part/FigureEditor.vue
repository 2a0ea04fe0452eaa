<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { FigureDef, Part } from '@/api/types'
import { fieldTypes } from '@/fields/fields'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import { totalOf, useTotals } from '../page/totals'
import TextSlot from '../sheet/TextSlot.vue'
import type { PartEditorProps } from './editor'

/** What a figure is made of, and what it is compared with. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const figure = computed(() => props.part.figure!)
const objectOf = useObjectOf(() => props.step)
const object = computed(() => objectOf(figure.value.source) ?? '')
const totals = useTotals(
  () => object.value,
  (type) => !!fieldTypes[type].right || fieldTypes[type].family === 'time',
)
const money = computed(() => build.fieldAt(object.value, figure.value.path ?? '')?.type === 'money')
const goods = [
  { key: '', label: 'neither good nor bad' },
  { key: 'more', label: 'good' },
  { key: 'less', label: 'bad' },
]

function change(some: Partial<FigureDef>): void {
  emit('change', { figure: { ...figure.value, ...some } })
}

function total(key: string): void {
  const { path, of } = totalOf(key) ?? {}
  change({ path, of, converted: undefined })
}
</script>

<template>
  <div class="row">
    of
    <KnownPicker
      :model-value="figure.source"
      :place="step"
      kind="list"
      label="What the figure is of"
      placeholder="a list"
      @update:model-value="change({ source: $event })"
    />
    <Select
      v-if="object"
      :model-value="figure.path ? `${figure.of} ${figure.path}` : ''"
      :options="totals"
      option-label="label"
      option-value="key"
      filter
      size="small"
      aria-label="What the figure says"
      @update:model-value="total"
    />
    <label v-if="money">
      <input
        type="checkbox"
        :checked="figure.converted ?? false"
        @change="change({ converted: ($event.target as HTMLInputElement).checked || undefined })"
      />
      converted to {{ build.contents?.currency }}
    </label>
  </div>
  <div class="row">
    compared with
    <KnownPicker
      :model-value="figure.against ?? ''"
      :place="step"
      kind="list"
      :object="object"
      label="What the figure is compared with"
      placeholder="nothing; or a list"
      @update:model-value="change({ against: $event || undefined })"
    />
    <template v-if="figure.against">
      called
      <TextSlot
        :model-value="figure.called ?? ''"
        label="What it is compared with is called"
        placeholder="last month"
        @update:model-value="change({ called: $event || undefined })"
      />
      more is
      <Select
        :model-value="figure.good ?? ''"
        :options="goods"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="What more of it is"
        @update:model-value="change({ good: $event || undefined })"
      />
    </template>
  </div>
</template>
