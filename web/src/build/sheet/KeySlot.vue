<script setup lang="ts">
import { useSheet } from './context'
import TextSlot from './TextSlot.vue'

/** What something is known as; a new key is followed by everything that names it. */
defineProps<{ pointer: string; name: string; label: string; within?: string }>()
const sheet = useSheet()
</script>

<template>
  <span class="row key-slot">
    <span class="muted">known as {{ within ? within + '.' : '' }}</span>
    <TextSlot
      :model-value="name"
      :label="label"
      class="key"
      @update:model-value="sheet.rename(pointer, name, $event)"
    />
  </span>
</template>

<style scoped>
.key-slot {
  gap: 0.2rem;
  flex-wrap: nowrap;
}
.key {
  width: 9rem;
}
</style>
