<script setup lang="ts">
import type { Part } from '@/api/types'
import TextSlot from '../sheet/TextSlot.vue'
import type { PartEditorProps } from './parts'

defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
</script>

<template>
  <TextSlot
    long
    :model-value="part.text ?? ''"
    label="Text"
    placeholder="Values stand in braces: {today}"
    @update:model-value="emit('change', { text: $event })"
  />
</template>
