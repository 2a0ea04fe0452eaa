<script setup lang="ts">
import type { Remove } from '@/api/types'
import KnownPicker from '../conditions/KnownPicker.vue'

/** Removes a record, all records of a list, or the rows that a button is about. */
defineProps<{ place: string; rows?: string }>()
const remove = defineModel<Remove>({ required: true })
</script>

<template>
  <div class="row">
    Remove
    <KnownPicker
      :model-value="remove.of ?? ''"
      :place="place"
      kind="records"
      label="What is removed"
      :placeholder="rows ? 'the rows' : 'which records'"
      @update:model-value="remove = { of: $event || undefined }"
    />
    <span class="muted">Records that others refer to stay, and the person is told.</span>
  </div>
</template>
