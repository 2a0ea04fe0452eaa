<script setup lang="ts">
import type { Hold } from '@/api/types'
import TextSlot from '../sheet/TextSlot.vue'

/** Shows a text while the lines after it are done. */
const hold = defineModel<Hold>({ required: true })
</script>

<template>
  <TextSlot
    :model-value="hold.text"
    label="What is shown meanwhile"
    @update:model-value="hold = { text: $event }"
  />
</template>
