<script setup lang="ts">
import AutoComplete, { type AutoCompleteCompleteEvent } from 'primevue/autocomplete'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, nextTick, onMounted, ref } from 'vue'
import type { Condition, Heading, Ref } from '@/api/types'
import { latest } from '@/api/latest'
import { operatorWord, type Operator } from '@/fields/operators'
import ValueInput from '@/fields/ValueInput.vue'
import { fieldTypes, type FieldType } from '@/fields/fields'

/** One condition of a person's own: a field, how it is compared, and with what. */
const props = defineProps<{
  fields: Heading[]
  condition: Condition | null
  find: (path: string, text: string) => Promise<Ref[]>
}>()
const emit = defineEmits<{ done: [condition: Condition] }>()

const path = ref(props.condition?.field ?? props.fields[0]?.path ?? '')
const op = ref<Operator | ''>(props.condition?.op ?? '')
const value = ref<unknown>(props.condition?.value?.literal ?? null)
const to = ref<unknown>(props.condition?.to?.literal ?? null)
const several = ref<unknown[]>((props.condition?.values ?? []).map((v) => v.literal))

const heading = computed(() => props.fields.find((f) => f.path === path.value))
const chosen = computed(() => !!heading.value?.choices)
const operators = computed(() =>
  (heading.value?.operators ?? [])
    .filter((o) => o !== 'one_of' || heading.value?.type !== 'money')
    .map((o) => ({ op: o, label: operatorWord(o, heading.value?.type) })),
)
const asked = computed(() => (operators.value.find((o) => o.op === op.value) ?? operators.value[0])?.op)
const bare = computed(() => ['is_empty', 'is_not_empty'].includes(asked.value ?? ''))
const days = computed(() => asked.value?.startsWith('within') ?? false)
const type = computed<FieldType>(() => {
  if (days.value) return 'whole_number'
  const t = heading.value?.type ?? 'text'
  return fieldTypes[t].asked ?? t
})
const texts = computed({
  get: () => several.value.map(String).join(', '),
  set: (text: string | undefined) =>
    (several.value = (text ?? '')
      .split(',')
      .map((t) => t.trim())
      .filter(Boolean)),
})
const refers = computed(() => ['reference', 'person'].includes(heading.value?.type ?? ''))
const refs = computed({
  get: () => several.value as Ref[],
  set: (list: Ref[] | null) => (several.value = (list ?? []).filter((r) => typeof r === 'object')),
})
const found = ref<Ref[]>([])
const question = latest()
async function complete(event: AutoCompleteCompleteEvent): Promise<void> {
  const isLatest = question.ask()
  const list = await props.find(path.value, event.query)
  if (isLatest()) found.value = list.filter((r) => !refs.value.some((c) => c.id === r.id))
}
const keys = computed({
  get: () => several.value as string[],
  set: (list: unknown) => (several.value = (list as string[] | null) ?? []),
})
const empty = (v: unknown) => v === null || v === undefined || v === ''
const ready = computed(() => {
  if (bare.value) return true
  if (asked.value === 'one_of') return several.value.length > 0
  return !empty(value.value) && (asked.value !== 'between' || !empty(to.value))
})

const form = ref<HTMLElement | null>(null)

// With the field known, the value is what is left to be said.
onMounted(async () => {
  if (!props.condition?.field) return
  await nextTick()
  const controls = form.value?.querySelectorAll<HTMLElement>('input, textarea, [role=combobox]')
  controls?.[2]?.focus({ preventScroll: true })
})

function pick(next: string): void {
  path.value = next
  op.value = ''
  value.value = to.value = null
  several.value = []
}

function done(): void {
  if (!ready.value || !heading.value) return
  const out: Condition = { field: path.value, op: asked.value }
  if (asked.value === 'one_of') out.values = several.value.map((literal) => ({ literal }))
  else if (!bare.value) out.value = { literal: value.value }
  if (asked.value === 'between') out.to = { literal: to.value }
  emit('done', out)
}
</script>

<template>
  <form ref="form" class="condition" @submit.prevent="done">
    <Select
      :model-value="path"
      :options="fields"
      option-label="label"
      option-value="path"
      filter
      size="small"
      aria-label="Field"
      @update:model-value="pick"
    />
    <Select
      :model-value="asked"
      :options="operators"
      option-label="label"
      option-value="op"
      size="small"
      aria-label="Comparison"
      @update:model-value="op = $event"
    />
    <template v-if="heading && !bare">
      <ValueInput
        v-if="asked === 'one_of' && chosen"
        id="condition-values"
        v-model="keys"
        type="several_choices"
        :choices="heading.choices"
        label="Values"
      />
      <AutoComplete
        v-else-if="asked === 'one_of' && refers"
        v-model="refs"
        multiple
        :suggestions="found"
        option-label="label"
        :delay="150"
        :min-length="0"
        complete-on-focus
        force-selection
        aria-label="Values"
        empty-search-message="Nothing of that name"
        @complete="complete"
      />
      <InputText
        v-else-if="asked === 'one_of'"
        v-model="texts"
        size="small"
        placeholder="one, two, three"
        aria-label="Values, with commas between them"
      />
      <ValueInput
        v-else
        :id="'condition-value-' + path"
        :key="path + asked"
        v-model="value"
        :type="type"
        :choices="heading.choices"
        :find="(text: string) => find(path, text)"
        label="Value"
      />
      <template v-if="asked === 'between'">
        and
        <ValueInput
          id="condition-to"
          v-model="to"
          :type="type"
          :choices="heading.choices"
          label="Upper value"
        />
      </template>
    </template>
    <Button type="submit" size="small" label="Show those" :disabled="!ready" />
  </form>
</template>

<style scoped>
.condition {
  display: flex;
  flex-direction: column;
  gap: 0.5rem;
  align-items: flex-start;
  min-width: 16rem;
}
</style>
