<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { FieldDef } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import { useKnown } from './context'
import { knownValues } from './known'
import { useBuild } from '../build'

/** What is to be where a known value is empty: nothing, another value, or a message that stops. */
const props = defineProps<{ place: string; field: FieldDef }>()
const expression = defineModel<string>({ required: true })
const build = useBuild()
const known = useKnown()
const value = computed(() =>
  knownValues(build, known.names(props.place), {}).find((k) => k.path === expression.value),
)
const other = computed(() => fieldTypes[resultOf(props.field)].instead)
const ways = computed(() => [
  { key: 'empty', label: 'it stays empty' },
  ...(other.value ? [{ key: 'other', label: 'another value is used' }] : []),
  { key: 'stop', label: 'it stops with a message' },
])

function take(way: string): void {
  const path = expression.value
  if (way === 'other') expression.value = `either(${path}, ${other.value})`
  else if (way === 'stop')
    expression.value = `needed(${path}, ${JSON.stringify(props.field.label + ' is needed.')})`
}
</script>

<template>
  <span v-if="value?.empty" class="way">
    <span class="muted">where that is empty</span>
    <Select
      model-value="empty"
      :options="ways"
      option-label="label"
      option-value="key"
      size="small"
      :aria-label="field.label + ': where it is empty'"
      @update:model-value="take"
    />
  </span>
</template>

<style scoped>
.way {
  display: inline-flex;
  align-items: center;
  gap: 0.4rem;
}
</style>
