<script setup lang="ts">
import { computed } from 'vue'
import type { Ref } from '@/api/types'
import ReferenceInput from '../ReferenceInput.vue'
import type { InputProps } from './input'
import TextInput from './TextInput.vue'

/** A record by words in what stands for it; where none can be looked for, its key. */
const props = defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
const chosen = computed({
  get: () => (value.value as Ref | null) ?? null,
  set: (r: Ref | null) => (value.value = r && typeof r === 'object' ? r : null),
})
</script>

<template>
  <ReferenceInput v-if="find" :id="id" v-model="chosen" :find="find" :label="label" :invalid="invalid" />
  <TextInput v-else v-bind="props" v-model="value" />
</template>
