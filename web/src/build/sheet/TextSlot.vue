<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Textarea from 'primevue/textarea'
import { nextTick, ref, watch } from 'vue'
import { afterPress } from '@/frame/press'

/** A text that is written when the builder leaves it or presses Enter. */
defineProps<{ label: string; placeholder?: string; long?: boolean }>()
const value = defineModel<string>({ required: true })
const text = ref('')
const input = ref<{ $el: HTMLElement } | null>(null)
// What comes from elsewhere does not overwrite what somebody is typing.
watch(
  value,
  (now, before) => {
    const typing = input.value?.$el === document.activeElement && text.value !== before
    if (!typing) text.value = now
  },
  { immediate: true },
)

/** Puts the keyboard into it, over what is there. */
function focus(): void {
  const element = input.value?.$el as HTMLInputElement | undefined
  element?.focus()
  element?.select()
}
defineExpose({ focus })

let giving = false

/**
 * What is taken comes back as the value; what is not, or not yet, leaves the earlier text. A text may
 * give what it names another key, and so be put in a new place: leaving the old one gives nothing again.
 */
async function commit(): Promise<void> {
  if (giving || text.value === value.value) return
  giving = true
  value.value = text.value
  await nextTick()
  giving = false
  text.value = value.value
}
</script>

<template>
  <Textarea
    v-if="long"
    ref="input"
    v-model="text"
    rows="2"
    auto-resize
    fluid
    :aria-label="label"
    :placeholder="placeholder"
    @blur="afterPress(commit)"
  />
  <InputText
    v-else
    ref="input"
    v-model="text"
    size="small"
    :aria-label="label"
    :placeholder="placeholder"
    @blur="afterPress(commit)"
    @keydown.enter.prevent="commit"
  />
</template>
