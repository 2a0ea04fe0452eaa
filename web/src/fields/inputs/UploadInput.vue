<script setup lang="ts">
import FileInput from '../FileInput.vue'
import type { InputProps } from './input'

/** A picture or a file. */
defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
</script>

<template>
  <FileInput
    :id="id"
    v-model="value"
    :picture="type === 'picture'"
    :label="label"
    :described-by="describedBy"
  />
</template>
