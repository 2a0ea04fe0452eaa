<script setup lang="ts">
import Select from 'primevue/select'
import type { Download } from '@/api/types'

/** Downloads the rows of the table. */
const download = defineModel<Download>({ required: true })
</script>

<template>
  <Select
    :model-value="download.format"
    :options="['csv', 'xlsx']"
    size="small"
    aria-label="Kind of file"
    @update:model-value="download = { format: $event }"
  />
</template>
