<script setup lang="ts">
import SelectButton from 'primevue/selectbutton'
import type { InputProps } from './input'

/** Yes or no, or neither. */
defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
const yesNo = [
  { label: 'Yes', value: true },
  { label: 'No', value: false },
]
</script>

<template>
  <SelectButton
    v-model="value"
    :options="yesNo"
    option-label="label"
    option-value="value"
    :aria-label="label"
    :aria-labelledby="label ? undefined : id + '-label'"
    :invalid="invalid"
  />
</template>
