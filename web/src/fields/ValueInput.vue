<script setup lang="ts">
import { inputs } from './inputs'
import type { InputProps } from './inputs/input'

/** An input for any type of field. */
const props = defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
</script>

<template>
  <component :is="inputs[type]" v-bind="props" v-model="value" />
</template>
