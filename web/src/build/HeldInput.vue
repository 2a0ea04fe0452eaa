<script setup lang="ts">
import { ref, watch } from 'vue'
import type { FieldDef } from '@/api/types'
import ValueInput from '@/fields/ValueInput.vue'
import { fieldTypes } from '@/fields/fields'
import { afterPress } from '@/frame/press'

/**
 * A value that is given up when it is left, or where it is picked at once. As long as somebody is in
 * it, what comes from elsewhere does not overwrite what they type.
 */
const props = defineProps<{
  id: string
  type: FieldDef['type']
  choices?: { key: string; label: string }[]
  currency?: string
  label: string
}>()
const value = defineModel<unknown>({ required: true })
const held = ref<unknown>(value.value)
const root = ref<HTMLElement | null>(null)
const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null)
const inside = () => !!root.value?.contains(document.activeElement)

watch(value, (now, before) => {
  // Untouched, it takes what is new even while somebody is in it.
  if (!inside() || same(held.value, before)) held.value = now
})

function give(): void {
  if (!same(held.value, value.value)) value.value = held.value
}

function enter(next: unknown): void {
  held.value = next
  if (fieldTypes[props.type].picked) give()
}

function leave(event: FocusEvent): void {
  const to = event.relatedTarget as HTMLElement | null
  if (!root.value?.contains(to)) afterPress(give)
}
</script>

<template>
  <span ref="root" @focusout="leave" @keydown.enter="type !== 'long_text' && give()">
    <ValueInput
      :id="id"
      :model-value="held"
      :type="type"
      :choices="choices"
      :currency="currency"
      :label="label"
      @update:model-value="enter"
    />
  </span>
</template>
