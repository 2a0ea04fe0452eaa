<script setup lang="ts">
import { computed } from 'vue'
import type { Part } from '@/api/types'
import KnownPicker from '../conditions/KnownPicker.vue'
import type { PartEditorProps } from './editor'

/** Whose history is shown. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [settings: Partial<Part>] }>()
const source = computed(() => props.part.history?.source ?? '')
</script>

<template>
  <div class="row">
    of
    <KnownPicker
      :model-value="source"
      :place="step"
      kind="record"
      label="Whose history is shown"
      placeholder="a record"
      @update:model-value="emit('change', { history: { source: $event } })"
    />
  </div>
</template>
