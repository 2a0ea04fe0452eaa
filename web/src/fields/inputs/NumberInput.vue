<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed } from 'vue'
import { read, written } from '../numerals'
import { heard, type InputProps } from './input'

/** A number as people write it. It stays a text, so that no digit is lost. */
const props = defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })

const number = computed({
  get: () => written(value.value === null || value.value === undefined ? '' : String(value.value)),
  set: (v: string | undefined) => (value.value = v ? read(v) : null),
})
</script>

<template>
  <InputText
    v-bind="heard(props)"
    v-model="number"
    :inputmode="type === 'decimal' ? 'decimal' : 'numeric'"
    class="number"
  />
</template>

<style scoped>
.number {
  width: 9rem;
  font-variant-numeric: tabular-nums;
}
</style>
