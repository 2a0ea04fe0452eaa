<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { ObjectDef, Op } from '@/api/types'
import { fieldTypes, isSingle } from '@/fields/fields'
import { keyFrom } from '../build'
import { put } from '../document'
import ExpressionSlot from './ExpressionSlot.vue'
import type { Records } from './records'

/** What stands for a record wherever it is shown: one of its fields, or an expression. */
const props = defineProps<{ object: ObjectDef; records: Records; record: number; recordLabel: string }>()
const emit = defineEmits<{ edit: [...patch: Op[]] }>()
const fields = computed(() =>
  props.object.fields.filter((f) => {
    return isSingle(f.type) && fieldTypes[f.type].family !== 'record'
  }),
)
const index = computed(() => props.object.fields.findIndex((f) => f.key === props.object.label_field))
const field = computed(() => props.object.fields[index.value])

/** The expression is a worked-out field like any other; it begins with what stood before. */
function workOut(): void {
  const key = keyFrom(
    'called',
    props.object.fields.map((f) => f.key),
  )
  const expression = field.value?.type === 'text' ? field.value.key : `text(${field.value?.key ?? '""'})`
  const made = { key, label: 'Called', type: 'worked_out', result: 'text', expression }
  emit('edit', put('/fields/-', made), put('/label_field', key))
}
</script>

<template>
  <div class="row">
    <Select
      :model-value="object.label_field"
      :options="fields"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="What a record is called"
      @update:model-value="emit('edit', put('/label_field', $event))"
    />
    <ExpressionSlot
      v-if="field?.type === 'worked_out'"
      :model-value="field.expression ?? ''"
      label="Expression for what a record is called"
      placeholder='first_name + " " + last_name'
      :records="records"
      :record="record"
      :record-label="recordLabel"
      @update:model-value="emit('edit', put(`/fields/${index}/expression`, $event))"
    />
    <Button v-else outlined size="small" label="Work it out instead" @click="workOut" />
  </div>
</template>
