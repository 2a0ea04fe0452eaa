<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import type { FieldDef, Operand } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { settable, useBuild } from '../build'
import EmptyWay from './EmptyWay.vue'
import OperandSlot from './OperandSlot.vue'

/** Fields of an object that are set to values. A field just chosen stays here until it has one. */
const props = defineProps<{
  object: string
  place: string
  values: { field: string; value: Operand }[]
  /** A new record is made, so that fields that need a value stand here from the start. */
  adds?: boolean
}>()
const emit = defineEmits<{ set: [field: string, value: Operand | undefined]; unset: [field: string] }>()
const build = useBuild()
const fields = computed(() => settable(build.object(props.object)))
const fieldOf = (key: string | null) => fields.value.find((f) => f.key === key)
const isSet = (key: string) => props.values.some((v) => v.field === key)
const pending = ref<string | null>(null)

/** What is set, and behind it what is still to be. */
const rows = computed(() => {
  const lacks = (f: FieldDef) => f.required && f.default === undefined && !f.default_expression
  const needed = props.adds ? fields.value.filter(lacks) : []
  const open = [...needed.map((f) => f.key), ...(pending.value ? [pending.value] : [])]
  const set: { field: string; value?: Operand }[] = props.values
  return [...set, ...open.filter((key) => !isSet(key)).map((field) => ({ field, value: undefined }))]
})
const left = computed(() => fields.value.filter((f) => !rows.value.some((r) => r.field === f.key)))

const box = ref<HTMLElement | null>(null)

/** The keyboard goes on to the next field, unless somebody has taken it elsewhere by then. */
async function set(field: string, value: Operand | undefined): Promise<void> {
  const first = !isSet(field)
  if (first && !value) return
  emit('set', field, value)
  if (field === pending.value) pending.value = null
  await new Promise((closed) => setTimeout(closed, 30)) // a list that closes takes the keyboard back once more
  const at = document.activeElement
  if (!first || (at !== document.body && at?.closest<HTMLElement>('[data-field]')?.dataset.field !== field))
    return
  const places = [`.open:not([data-field="${field}"]) input`, '.another [role=combobox]']
  const next = places.flatMap((p) => box.value?.querySelector<HTMLElement>(p) ?? [])[0]
  next?.focus()
}
</script>

<template>
  <div ref="box" class="values">
    <div v-for="v in rows" :key="v.field" :data-field="v.field" class="row" :class="{ open: !v.value }">
      <span class="field">{{ fieldOf(v.field)?.label ?? v.field }}</span> is
      <OperandSlot
        v-if="fieldOf(v.field)"
        :model-value="v.value"
        :place="place"
        :field="fieldOf(v.field)!"
        :label="fieldOf(v.field)!.label"
        @update:model-value="set(v.field, $event)"
      />
      <EmptyWay
        v-if="fieldOf(v.field) && v.value?.expression"
        :model-value="v.value.expression"
        :place="place"
        :field="fieldOf(v.field)!"
        @update:model-value="emit('set', v.field, { expression: $event })"
      />
      <RemoveButton v-if="v.value" :label="'Do not set ' + v.field" @press="emit('unset', v.field)" />
    </div>
    <div class="row another">
      <Select
        v-model="pending"
        :options="left"
        option-label="label"
        option-value="key"
        size="small"
        placeholder="set a field…"
        aria-label="Set a field"
      />
    </div>
  </div>
</template>

<style scoped>
.values {
  display: flex;
  flex-direction: column;
  gap: 0.6rem;
}
.field {
  min-width: 6rem;
  font-weight: 600;
}
</style>
