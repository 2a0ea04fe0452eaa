<script setup lang="ts">
import AddressInput from '../AddressInput.vue'
import type { InputProps } from './input'

/** An address. */
defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
</script>

<template>
  <AddressInput :id="id" v-model="value" :invalid="invalid" :label="label" :described-by="describedBy" />
</template>
