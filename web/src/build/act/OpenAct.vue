<script setup lang="ts">
import type { Open } from '@/api/types'
import KnownPicker from '../conditions/KnownPicker.vue'

/** Opens a record: that of the row, or one that it leads to. */
defineProps<{ place: string; rows?: string }>()
const open = defineModel<Open>({ required: true })
</script>

<template>
  <KnownPicker
    :model-value="open.record ?? ''"
    :place="place"
    kind="record"
    label="Which record"
    placeholder="of the row"
    @update:model-value="open = { record: $event || undefined }"
  />
</template>
