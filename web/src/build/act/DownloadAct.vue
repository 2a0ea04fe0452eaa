<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Download } from '@/api/types'
import KnownPicker from '../conditions/KnownPicker.vue'
import { usePartsHere } from './parts'

/** Downloads the rows of a table, or a file that a record keeps. */
const props = defineProps<{ place: string; byItself?: boolean }>()
const download = defineModel<Download>({ required: true })
const here = usePartsHere(() => props.place)
const file = ':file'
const all = computed(() => [
  ...(props.byItself ? [] : [{ key: '', label: 'the rows of this table' }]),
  ...here()
    .filter((p) => p.table)
    .map((p) => ({ key: p.key, label: `the rows of ${p.label}` })),
  { key: file, label: 'a file that is kept' },
])
const kinds = [
  { key: 'csv', label: 'as CSV' },
  { key: 'xlsx', label: 'as XLSX' },
]
const chosen = computed(() => (download.value.file === undefined ? (download.value.part ?? '') : file))

function choose(what: string): void {
  const { format = 'csv' } = download.value
  if (what === file) download.value = { file: '' }
  else download.value = what ? { part: what, format } : { format }
}
</script>

<template>
  <div class="row">
    Download
    <Select
      :model-value="chosen"
      :options="all"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="the rows of which table"
      aria-label="What is downloaded"
      @update:model-value="choose"
    />
    <KnownPicker
      v-if="chosen === file"
      :model-value="download.file ?? ''"
      :place="place"
      kind="record"
      object="file"
      label="Which file"
      placeholder="which file or picture"
      @update:model-value="download = { file: $event }"
    />
    <Select
      v-else
      :model-value="download.format ?? 'csv'"
      :options="kinds"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="Kind of file"
      @update:model-value="download = { ...download, format: $event }"
    />
  </div>
</template>
