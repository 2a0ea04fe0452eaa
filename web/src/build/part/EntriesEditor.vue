<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed } from 'vue'
import type { Entries, Part } from '@/api/types'
import TextSlot from '../sheet/TextSlot.vue'
import AskEditor from './AskEditor.vue'
import type { PartEditorProps } from './editor'

/** What people type in row by row. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const entries = computed(() => props.part.entries!)

function change(some: Partial<Entries>): void {
  emit('change', { entries: { ...entries.value, ...some } })
}

function number(text: string): number | undefined {
  const n = Number(text)
  return text.trim() && Number.isInteger(n) && n > 0 ? n : undefined
}
</script>

<template>
  <AskEditor
    :model-value="entries.ask"
    :pointer="pointer + '/entries/ask'"
    :step="step"
    first="text"
    @update:model-value="change({ ask: $event })"
  />
  <div class="row">
    at least
    <InputText
      :model-value="String(entries.least || '')"
      size="small"
      placeholder="none"
      class="few"
      aria-label="At least so many rows"
      @change="change({ least: number(($event.target as HTMLInputElement).value) })"
    />
    at most
    <InputText
      :model-value="String(entries.most || '')"
      size="small"
      placeholder="any"
      class="few"
      aria-label="At most so many rows"
      @change="change({ most: number(($event.target as HTMLInputElement).value) })"
    />
    rows; help
    <TextSlot
      :model-value="entries.help ?? ''"
      label="Help"
      placeholder="none"
      @update:model-value="change({ help: $event || undefined })"
    />
  </div>
</template>

<style scoped>
.few {
  width: 4.5rem;
}
</style>
