<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'

import { findIn } from '@/api/options'
import type { FieldDef, Operand } from '@/api/types'
import ValueInput from '@/fields/ValueInput.vue'
import { fieldTypes } from '@/fields/fields'
import { afterPress } from '@/frame/press'
import { target as targetOf, useBuild } from '../build'
import { kindOf } from './known'
import KnownPicker from './KnownPicker.vue'

/** The value of a condition or of a field to be set: typed in, or a known value. */
const props = defineProps<{
  place: string
  label: string
  field: FieldDef
  kind?: string
  /** Whether one of several choices is meant rather than all of them. */
  one?: boolean
  without?: string[]
}>()
const operand = defineModel<Operand | undefined>({ required: true })
const build = useBuild()
const kinds = [
  { key: 'known', label: 'known value' },
  { key: 'typed', label: 'typed in' },
]
const expression = computed({
  get: () => operand.value?.expression ?? '',
  set: (e: string) => (operand.value = { expression: e }),
})
const literal = ref<unknown>(null)
watch(
  () => operand.value?.literal,
  (l) => (literal.value = l ?? null),
  { immediate: true },
)

function commit(): void {
  if (JSON.stringify(literal.value) !== JSON.stringify(operand.value?.literal ?? null))
    operand.value = { literal: literal.value }
}

const type = computed(() =>
  props.kind === 'whole'
    ? 'whole_number'
    : props.one && props.field.type === 'several_choices'
      ? 'choice'
      : props.field.type === 'worked_out'
        ? props.field.result!
        : props.field.type,
)
// Of what has few values, one of those is meant as a rule.
const few = computed(() => fieldTypes[type.value].family === 'choice')
const mode = ref('known')
watch(
  [operand, few],
  ([o]) => (mode.value = o?.expression || (o?.literal === undefined && !few.value) ? 'known' : 'typed'),
  { immediate: true },
)
const target = computed(() => targetOf(props.field))
const id = 'op-' + Math.random().toString(36).slice(2)

function typed(v: unknown): void {
  literal.value = v
  if (fieldTypes[type.value].picked) commit()
}

const find = (text: string) => findIn(() => target.value)(text)
</script>

<template>
  <span class="operand">
    <Select
      v-model="mode"
      :options="kinds"
      option-label="label"
      option-value="key"
      size="small"
      :aria-label="label + ': where from'"
    />
    <KnownPicker
      v-if="mode === 'known'"
      v-model="expression"
      :place="place"
      :label="label"
      :kind="kind ?? (type === 'choice' ? 'text' : kindOf(field))"
      :object="target"
      :without="without"
    />
    <span v-else @focusout="afterPress(commit)" @keydown.enter="commit">
      <ValueInput
        :id="id"
        :label="label"
        :model-value="literal"
        :type="type"
        :choices="field.choices"
        :currency="build.contents?.currency"
        :find="target ? find : undefined"
        @update:model-value="typed"
      />
    </span>
  </span>
</template>

<style scoped>
.operand {
  display: inline-flex;
  gap: 0.3rem;
  align-items: center;
}
</style>
