<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import InputText from 'primevue/inputtext'
import MultiSelect from 'primevue/multiselect'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Part, TablePart } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import { useBuild } from '../build'
import { selections } from '../words'
import ColumnsEditor from '../sheet/ColumnsEditor.vue'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import TextSlot from '../sheet/TextSlot.vue'
import type { PartEditorProps } from './editor'
import TableExtras from './TableExtras.vue'

const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const objectOf = useObjectOf(() => props.step)
const table = computed(() => props.part.table!)
const object = computed(() => objectOf(table.value.source))
const lives = [
  { key: 'tell', label: 'says so' },
  { key: 'refresh', label: 'is read again' },
]
/** Texts near at hand, and those further away that it looks in already. */
const keywords = computed(() => {
  const of = object.value
  if (!of) return []
  const near = build
    .paths(of, 1)
    .filter((o) => fieldTypes[resultOf(o.field)].searchable)
    .map(({ path, label }) => ({ path, label }))
  const far = (table.value.keyword ?? []).filter((path) => !near.some((o) => o.path === path))
  return [...near, ...far.map((path) => ({ path, label: build.pathLabel(of, path) }))]
})

function change(some: Partial<TablePart>): void {
  emit('change', { table: { ...table.value, ...some } })
}

function number(text: string, from: number): number | undefined {
  const n = Number(text)
  return text.trim() && Number.isInteger(n) && n >= from ? n : undefined
}

function setSource(source: string): void {
  const of = objectOf(source)
  if (of === object.value || !of) change({ source })
  else {
    const label = build.object(of)?.label_field
    change({ source, columns: label ? [{ path: label }] : [], keyword: undefined })
  }
}
</script>

<template>
  <div class="row">
    <template v-if="!page">
      shows
      <KnownPicker
        :model-value="table.source"
        :place="step"
        kind="list"
        label="What the table shows"
        placeholder="a list"
        @update:model-value="setSource"
      />
      ;
    </template>
    <Select
      :model-value="table.select"
      :options="selections"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="How many rows are chosen"
      @update:model-value="change({ select: $event })"
    />
    <label v-if="table.select === 'one' && !page" class="row">
      <Checkbox
        :model-value="table.least === 0"
        binary
        @update:model-value="change({ least: $event ? 0 : undefined })"
      />
      or none
    </label>
    <template v-if="table.select === 'several'">
      at least
      <InputText
        :model-value="String(table.least ?? '')"
        size="small"
        placeholder="1"
        class="few"
        aria-label="At least"
        @change="change({ least: number(($event.target as HTMLInputElement).value, 0) })"
      />
      at most
      <InputText
        :model-value="String(table.most || '')"
        size="small"
        placeholder="any"
        class="few"
        aria-label="At most"
        @change="change({ most: number(($event.target as HTMLInputElement).value, 1) })"
      />
    </template>
  </div>
  <template v-if="object">
    <ColumnsEditor
      :model-value="table.columns"
      :object="object"
      label="columns"
      @update:model-value="change({ columns: $event })"
    />
    <div class="row">
      keyword search in
      <MultiSelect
        :model-value="table.keyword ?? []"
        :options="keywords"
        option-label="label"
        option-value="path"
        size="small"
        placeholder="nothing"
        aria-label="Keyword search in"
        @update:model-value="change({ keyword: $event })"
      />
      <label class="row"
        ><Checkbox
          binary
          :model-value="table.edit ?? false"
          @update:model-value="change({ edit: $event || undefined })"
        />
        cells can be changed</label
      >
      when its records change elsewhere it
      <Select
        :model-value="table.live ?? 'tell'"
        :options="lives"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="When its records change elsewhere"
        @update:model-value="change({ live: $event === 'tell' ? undefined : $event })"
      />
      can be switched to
      <MultiSelect
        :model-value="(table.others ?? []).map((o) => o.object)"
        :options="build.own.filter((o) => o.key !== object)"
        option-label="plural"
        option-value="key"
        size="small"
        filter
        placeholder="nothing else"
        aria-label="What the table can be switched to"
        @update:model-value="
          (keys: string[]) => change({ others: keys.length ? keys.map((object) => ({ object })) : undefined })
        "
      />
      when empty it says
      <TextSlot
        :model-value="table.nothing ?? ''"
        label="Text when empty"
        placeholder="There is nothing in this list."
        @update:model-value="change({ nothing: $event || undefined })"
      />
      while it is read
      <TextSlot
        :model-value="table.reading ?? ''"
        label="Text while it is read"
        placeholder="Reading…"
        @update:model-value="change({ reading: $event || undefined })"
      />
      when it cannot be read
      <TextSlot
        :model-value="table.failed ?? ''"
        label="Text when it cannot be read"
        placeholder="the reason alone"
        @update:model-value="change({ failed: $event || undefined })"
      />
    </div>
    <TableExtras
      v-if="!page"
      :page="page"
      :table="table"
      :object="object"
      :step="step"
      :pointer="pointer + '/table'"
      @change="change"
    />
  </template>
</template>

<style scoped>
.few {
  width: 3.4rem;
}
</style>
