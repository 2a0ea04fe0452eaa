<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Textarea from 'primevue/textarea'
import type { Address } from '../formats'
import type { InputProps } from './input'

/** An address: the lines above the town, the town with its postcode, the country. */
defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
const rest: { key: keyof Address; label: string }[] = [
  { key: 'postcode', label: 'Postcode' },
  { key: 'town', label: 'Town' },
  { key: 'country', label: 'Country' },
]

const part = (key: keyof Address): string => (value.value as Address | null)?.[key] ?? ''

function set(key: keyof Address, text: string | undefined): void {
  const next = { ...(value.value as Address | null), [key]: text || undefined }
  value.value = Object.values(next).some(Boolean) ? next : null
}
</script>

<template>
  <span class="address" role="group" :aria-label="label" :aria-labelledby="label ? undefined : id + '-label'">
    <Textarea
      :id="id"
      :model-value="part('lines')"
      rows="2"
      auto-resize
      placeholder="Street and number"
      aria-label="Street and number"
      :aria-describedby="describedBy"
      :invalid="invalid"
      class="lines"
      @update:model-value="set('lines', $event)"
    />
    <InputText
      v-for="p in rest"
      :key="p.key"
      :model-value="part(p.key)"
      :placeholder="p.label"
      :aria-label="p.label"
      :invalid="invalid"
      :class="p.key"
      @update:model-value="set(p.key, $event)"
    />
  </span>
</template>

<style scoped>
.address {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(6rem, 1fr));
  gap: 0.35rem;
}
.lines {
  grid-column: 1 / -1;
}
</style>
