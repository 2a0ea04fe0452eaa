<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { ref } from 'vue'
import type { FieldType } from '@/fields/fields'

/** A value of rows by its name and type; the rest is set where it stands. */
const props = defineProps<{
  types: { key: FieldType; label: string }[]
  /** The type that is likeliest. */
  first: FieldType
  label: string
  placeholder: string
  button: string
}>()
const emit = defineEmits<{ add: [label: string, type: FieldType] }>()
const name = ref('')
const type = ref<FieldType>(props.first)

function add(): void {
  const words = name.value.trim()
  if (!words) return
  emit('add', words, type.value)
  name.value = ''
}
</script>

<template>
  <form class="row" @submit.prevent="add">
    <slot />
    <InputText v-model="name" size="small" :placeholder="placeholder" :aria-label="label" />
    <template v-if="name.trim()">
      <Select
        v-model="type"
        :options="types"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="Its type"
      />
      <Button type="submit" text size="small" :label="button" />
    </template>
  </form>
</template>
