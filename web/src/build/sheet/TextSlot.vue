<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Textarea from 'primevue/textarea'
import { ref, watch } from 'vue'

/** A text that is written when the builder leaves it or presses Enter. */
defineProps<{ label: string; placeholder?: string; long?: boolean }>()
const value = defineModel<string>({ required: true })
const text = ref('')
watch(value, (v) => (text.value = v), { immediate: true })

function commit(): void {
  if (text.value !== value.value) value.value = text.value
}
</script>

<template>
  <Textarea
    v-if="long"
    v-model="text"
    rows="2"
    auto-resize
    fluid
    :aria-label="label"
    :placeholder="placeholder"
    @blur="commit"
  />
  <InputText
    v-else
    v-model="text"
    size="small"
    :aria-label="label"
    :placeholder="placeholder"
    @blur="commit"
    @keydown.enter.prevent="commit"
  />
</template>
