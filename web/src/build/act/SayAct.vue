<script setup lang="ts">
import type { Say } from '@/api/types'
import TextSlot from '../sheet/TextSlot.vue'

/** Says a brief message. */
const say = defineModel<Say>({ required: true })
</script>

<template>
  <TextSlot :model-value="say.text" label="What it says" @update:model-value="say = { text: $event }" />
</template>
