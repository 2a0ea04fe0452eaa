<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { ref } from 'vue'
import type { FieldDef } from '@/api/types'
import { offered, typesWhere, type FieldType } from '@/fields/fields'
import { keyFrom, useBuild } from '../build'

/** A new field by its name and type; the rest is set in its row. */
const props = defineProps<{ fields: FieldDef[] }>()
const emit = defineEmits<{ add: [field: FieldDef] }>()
const build = useBuild()
const label = ref('')
const type = ref<FieldType>('text')
const types = offered(typesWhere(() => true))
const reserved = [
  'id',
  'revision',
  'created_at',
  'created_by',
  'changed_at',
  'changed_by',
  'today',
  'now',
  'person',
]

function add(): void {
  const words = label.value.trim()
  if (!words) return
  const field: FieldDef = {
    key: keyFrom(words, [...reserved, ...props.fields.map((f) => f.key)]),
    label: words,
    type: type.value,
  }
  if (['choice', 'several_choices'].includes(type.value)) field.choices = [{ key: 'first', label: 'First' }]
  if (type.value === 'reference') field.object = build.own[0]?.key
  if (type.value === 'worked_out') Object.assign(field, { expression: '""', result: 'text' })
  emit('add', field)
  label.value = ''
}
</script>

<template>
  <form class="row" @submit.prevent="add">
    <InputText v-model="label" size="small" aria-label="Name of a new field" placeholder="New field" />
    <Select
      v-model="type"
      :options="types"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="Its type"
    />
    <Button type="submit" outlined size="small" label="Add the field" :disabled="!label.trim()" />
  </form>
</template>

<style scoped>
form {
  margin: 0.7rem 0;
}
</style>
