<script setup lang="ts">
import SelectButton from 'primevue/selectbutton'
import type { ObjectDef, Right } from '@/api/types'

type Fields = NonNullable<Right['fields']>

/** What a role may do with single fields, where that is less than with the record. */
const props = defineProps<{ object: ObjectDef; fields: Fields }>()
const emit = defineEmits<{ change: [fields: Fields] }>()
const levels = [
  { key: 'all', label: 'as the record' },
  { key: 'fixed', label: 'to read only' },
  { key: 'hidden', label: 'hidden' },
]

const level = (key: string) =>
  props.fields[key]?.hidden ? 'hidden' : props.fields[key]?.fixed ? 'fixed' : 'all'

function set(key: string, to: string): void {
  const next = { ...props.fields }
  if (to === 'all') delete next[key]
  else next[key] = to === 'hidden' ? { hidden: true } : { fixed: true }
  emit('change', next)
}
</script>

<template>
  <details :open="Object.keys(fields).length > 0">
    <summary>Fields</summary>
    <div v-for="f in object.fields" :key="f.key" class="row">
      <span class="name">{{ f.label }}</span>
      <SelectButton
        :model-value="level(f.key)"
        :options="levels"
        option-label="label"
        option-value="key"
        size="small"
        :allow-empty="false"
        :aria-label="'What the role may do with ' + f.label"
        @update:model-value="set(f.key, $event)"
      />
    </div>
  </details>
</template>

<style scoped>
details {
  margin-top: 0.7rem;
}
.row {
  margin: 0.25rem 0;
}
.name {
  width: 11rem;
}
</style>
