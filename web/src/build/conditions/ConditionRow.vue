<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Condition, Operand } from '@/api/types'
import { target, useBuild } from '../build'
import { operatorWord, type Operator } from '@/fields/operators'
import { kindOf } from './known'
import KnownPicker from './KnownPicker.vue'
import OperandSlot from './OperandSlot.vue'
import PathPicker from './PathPicker.vue'
import RemoveButton from '@/frame/RemoveButton.vue'

const props = defineProps<{ place: string; object: string }>()
const condition = defineModel<Condition>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const build = useBuild()
const field = computed(() => build.fieldAt(props.object, condition.value.field ?? ''))
const type = computed(() => (field.value?.type === 'worked_out' ? field.value.result : field.value?.type))
const operators = computed(() =>
  (build.contents?.operators[type.value ?? 'text'] ?? []).map((op) => ({
    op,
    label: operatorWord(op, type.value),
  })),
)
const bare = computed(() => ['is_empty', 'is_not_empty'].includes(condition.value.op ?? ''))
const days = computed(() => condition.value.op?.startsWith('within') ?? false)
const asksEmpty = computed(
  () => !!condition.value.value?.expression && !['today', 'now'].includes(condition.value.value.expression),
)
const meanings = [
  { key: 'nothing', label: 'finds nothing' },
  { key: 'skip', label: 'is skipped' },
]

function setField(path: string): void {
  const next = build.fieldAt(props.object, path)
  const t = next?.type === 'worked_out' ? next.result : next?.type
  condition.value = { field: path, op: build.contents?.operators[t ?? 'text']?.[0] ?? 'is' }
}

/** What is compared with is taken along as far as the other comparison shows it; nothing stays hidden. */
function setOp(op: Operator): void {
  const { field: path, op: was, value, values, empty } = condition.value
  const one = was === 'one_of' ? values?.[0] : value
  if (['is_empty', 'is_not_empty'].includes(op)) condition.value = { field: path, op }
  else if (op === 'one_of') condition.value = { field: path, op, values: one ? [one] : [], empty }
  else condition.value = { field: path, op, value: one, empty }
}

// One of a list that is known here, or of values that are named.
const sources = [
  { key: 'list', label: 'a list' },
  { key: 'named', label: 'these' },
]
const refersTo = computed(() => (field.value ? target(field.value) : undefined))
const listed = computed(
  () => !!refersTo.value || kindOf(field.value ?? { type: 'text' }) === 'text' || several.value,
)
const several = computed(() => type.value === 'several_choices')
const source = computed(() => (condition.value.value ? 'list' : 'named'))

function setSource(key: string): void {
  const { field: path, op, empty } = condition.value
  condition.value =
    key === 'list' ? { field: path, op, value: {}, empty } : { field: path, op, values: [], empty }
}

function setValue(value: Operand | undefined): void {
  const empty = value?.expression ? (condition.value.empty ?? 'nothing') : undefined
  condition.value = { ...condition.value, value, empty }
}

function setOne(i: number, value: Operand | undefined): void {
  const values = [...(condition.value.values ?? [])]
  if (value) values[i] = value
  else values.splice(i, 1)
  condition.value = { ...condition.value, values }
}
</script>

<template>
  <div class="condition">
    <PathPicker
      :model-value="condition.field ?? ''"
      :object="object"
      label="Field"
      @update:model-value="setField"
    />
    <Select
      v-if="field"
      :model-value="condition.op"
      :options="operators"
      option-label="label"
      option-value="op"
      size="small"
      aria-label="Comparison"
      @update:model-value="setOp"
    />
    <template v-if="field && !bare">
      <template v-if="condition.op === 'one_of'">
        <Select
          v-if="listed"
          :model-value="source"
          :options="sources"
          option-label="label"
          option-value="key"
          size="small"
          aria-label="One of what"
          @update:model-value="setSource"
        />
        <KnownPicker
          v-if="source === 'list'"
          :model-value="condition.value?.expression ?? ''"
          :place="place"
          label="List"
          :kind="refersTo ? 'list' : 'several'"
          :object="refersTo"
          placeholder="chosen rows, or a search"
          @update:model-value="setValue({ expression: $event })"
        />
        <OperandSlot
          v-for="(v, i) in condition.values ?? []"
          :key="i"
          :model-value="v"
          :place="place"
          :field="field"
          one
          label="Value"
          @update:model-value="setOne(i, $event)"
        />
        <Button
          v-if="source === 'named'"
          text
          size="small"
          label="another value"
          @click="setOne(condition.values?.length ?? 0, { literal: null })"
        />
      </template>
      <OperandSlot
        v-else
        :model-value="condition.value"
        :place="place"
        :field="field"
        :kind="days ? 'whole' : undefined"
        one
        label="Value"
        @update:model-value="setValue"
      />
      <template v-if="condition.op === 'between'">
        and
        <OperandSlot
          :model-value="condition.to"
          :place="place"
          :field="field"
          label="Upper value"
          @update:model-value="condition = { ...condition, to: $event }"
        />
      </template>
      <span v-if="asksEmpty" class="empty">
        if that is empty, the condition
        <Select
          :model-value="condition.empty ?? 'nothing'"
          :options="meanings"
          option-label="label"
          option-value="key"
          size="small"
          aria-label="If the value is empty"
          @update:model-value="condition = { ...condition, empty: $event }"
        />
      </span>
    </template>
    <RemoveButton label="Remove the condition" @press="emit('remove')" />
  </div>
</template>

<style scoped>
.condition {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.35rem;
}
.empty {
  color: var(--muted);
}
</style>
