<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import { computed } from 'vue'
import type { Lines, Part } from '@/api/types'
import { typeAt } from '../act/typeat'
import { useBuild } from '../build'
import { useKnown } from '../conditions/context'
import KnownPicker from '../conditions/KnownPicker.vue'
import TextSlot from '../sheet/TextSlot.vue'
import type { PartEditorProps } from './editor'

/** Which rows are shown to be read over, what of them, and what is summed up. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const known = useKnown()
const lines = computed(() => props.part.lines!)
/** The name that the rows come from: a filter shows the values that those have. */
const root = computed(() => /^[a-z0-9_.]+?(?=\.filter\(|$)/.exec(lines.value.source)?.[0] ?? '')
const values = computed(() => typeAt(build, known.names(props.step), root.value)?.answers ?? [])
const rows = computed(() =>
  values.value.map((v) => {
    const at = lines.value.columns.findIndex((c) => c.value === v.key)
    return { ...v, at, column: lines.value.columns[at] }
  }),
)
const sums = (kind: string) => ['whole', 'decimal', 'money'].includes(kind)

function change(some: Partial<Lines>): void {
  emit('change', { lines: { ...lines.value, ...some } })
}

function show(key: string, is: boolean): void {
  const others = lines.value.columns.filter((c) => c.value !== key)
  const order = values.value.map((v) => v.key)
  const all = is ? [...others, { value: key }] : others
  change({ columns: all.sort((a, b) => order.indexOf(a.value) - order.indexOf(b.value)) })
}

function column(at: number, some: Partial<Lines['columns'][number]>): void {
  change({ columns: lines.value.columns.map((c, i) => (i === at ? { ...c, ...some } : c)) })
}
</script>

<template>
  <div class="row">
    shows
    <KnownPicker
      :model-value="lines.source"
      :place="step"
      kind="rows"
      label="What is read over"
      placeholder="rows put together"
      @update:model-value="change({ source: $event })"
    />
    when empty it says
    <TextSlot
      :model-value="lines.nothing ?? ''"
      label="Text when empty"
      placeholder="There is nothing in this list."
      @update:model-value="change({ nothing: $event || undefined })"
    />
  </div>
  <div v-for="r in rows" :key="r.key" class="row">
    <label class="row value">
      <Checkbox binary :model-value="r.at >= 0" @update:model-value="show(r.key, $event)" />
      {{ r.label || r.key }}
    </label>
    <template v-if="r.column">
      headed
      <TextSlot
        :model-value="r.column.label ?? ''"
        :label="'Heading of ' + r.label"
        :placeholder="r.label"
        @update:model-value="column(r.at, { label: $event || undefined })"
      />
      <label v-if="sums(r.type.kind)" class="row">
        <Checkbox
          binary
          :model-value="r.column.total ?? false"
          @update:model-value="column(r.at, { total: $event || undefined })"
        />
        with its total
      </label>
    </template>
  </div>
</template>

<style scoped>
.value {
  min-width: 12rem;
}
</style>
