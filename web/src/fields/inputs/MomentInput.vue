<script setup lang="ts">
import { computed } from 'vue'
import DateInput from '../DateInput.vue'
import type { InputProps } from './input'

/** A day, or a day and time. */
defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
const date = computed({
  get: () => (typeof value.value === 'string' ? value.value : null),
  set: (v) => (value.value = v),
})
</script>

<template>
  <DateInput
    :id="id"
    v-model="date"
    :timed="type === 'date_time'"
    :label="label"
    :invalid="invalid"
    :described-by="describedBy"
  />
</template>
