<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Textarea from 'primevue/textarea'
import { computed } from 'vue'
import { heard, type InputProps } from './input'

/** A text on a line, or on several. */
const props = defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })

const text = computed({
  get: () => (value.value === null || value.value === undefined ? '' : String(value.value)),
  set: (v: string | undefined) => (value.value = v === '' || v === undefined ? null : v),
})
const kinds: Partial<Record<InputProps['type'], string>> = { email: 'email', phone: 'tel', web_link: 'url' }
</script>

<template>
  <Textarea v-if="type === 'long_text'" v-bind="heard(props)" v-model="text" auto-resize rows="3" fluid />
  <InputText v-else v-bind="heard(props)" v-model="text" :type="kinds[type] ?? 'text'" fluid />
</template>
