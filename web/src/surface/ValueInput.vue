<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import InputText from 'primevue/inputtext'
import MultiSelect from 'primevue/multiselect'
import RadioButton from 'primevue/radiobutton'
import Select from 'primevue/select'
import SelectButton from 'primevue/selectbutton'
import Textarea from 'primevue/textarea'
import { computed } from 'vue'
import type { FieldDef, Ref } from '@/api/types'
import AddressInput from './AddressInput.vue'
import DateInput from './DateInput.vue'
import { longList } from './longlist'
import FileInput from './FileInput.vue'
import ReferenceInput from './ReferenceInput.vue'
import { read, written } from './numerals'

/** An input for any field type. The value is as it travels in JSON, null when empty. */
const props = defineProps<{
  id: string
  type: FieldDef['type']
  choices?: { key: string; label: string }[]
  invalid?: boolean
  describedBy?: string
  /** The name for people who hear it, where no label stands beside it. */
  label?: string
  currency?: string
  find?: (text: string) => Promise<Ref[]>
  /** Choices stand in a list that opens, however few they are. */
  closed?: boolean
}>()
const value = defineModel<unknown>({ required: true })

const text = computed({
  get: () => (value.value === null || value.value === undefined ? '' : String(value.value)),
  set: (v: string | undefined) => (value.value = v === '' || v === undefined ? null : v),
})

const date = computed({
  get: () => (typeof value.value === 'string' ? value.value : null),
  set: (v) => (value.value = v),
})

/** Numbers stay texts, so that no digit is lost. */
const number = computed({
  get: () => written(text.value),
  set: (v: string | undefined) => (value.value = v ? read(v) : null),
})

interface Money {
  amount: string
  currency: string
}
const amount = computed({
  get: () => written((value.value as Money | null)?.amount ?? ''),
  set: (v: string | undefined) => (value.value = v ? { amount: read(v), currency: currency.value } : null),
})
const currency = computed({
  get: () => (value.value as Money | null)?.currency ?? props.currency ?? 'EUR',
  set: (v: string | undefined) =>
    (value.value = { amount: read(amount.value), currency: (v ?? '').toUpperCase() }),
})

const yesNo = [
  { label: 'Yes', value: true },
  { label: 'No', value: false },
]
const chosen = computed({
  get: () => (value.value as Ref | null) ?? null,
  set: (r: Ref | null) => (value.value = r && typeof r === 'object' ? r : null),
})
const several = computed({
  get: () => (value.value as string[] | null) ?? [],
  // in the order of the choices, whatever order they were ticked in
  set: (keys: string[]) => {
    const now = (props.choices ?? []).map((c) => c.key).filter((k) => keys.includes(k))
    value.value = now.length ? now : null
  },
})
const common = computed(() => ({
  id: props.id,
  invalid: props.invalid,
  'aria-describedby': props.describedBy,
  'aria-label': props.label,
}))
const fewChoices = computed(() => !props.closed && (props.choices?.length ?? 0) <= 4)
</script>

<template>
  <Textarea v-if="type === 'long_text'" v-bind="common" v-model="text" auto-resize rows="3" fluid />
  <InputText
    v-else-if="type === 'whole_number' || type === 'decimal'"
    v-bind="common"
    v-model="number"
    :inputmode="type === 'decimal' ? 'decimal' : 'numeric'"
    class="number"
  />
  <span v-else-if="type === 'money'" class="row">
    <InputText v-bind="common" v-model="amount" inputmode="decimal" class="number" />
    <InputText v-model="currency" aria-label="Currency" maxlength="3" class="currency" />
  </span>
  <SelectButton
    v-else-if="type === 'yes_no'"
    v-model="value"
    :options="yesNo"
    option-label="label"
    option-value="value"
    :aria-label="label"
    :aria-labelledby="label ? undefined : id + '-label'"
    :invalid="invalid"
  />
  <DateInput
    v-else-if="type === 'date' || type === 'date_time'"
    :id="id"
    v-model="date"
    :timed="type === 'date_time'"
    :label="label"
    :invalid="invalid"
    :described-by="describedBy"
  />
  <span
    v-else-if="type === 'choice' && fewChoices"
    class="choices"
    role="radiogroup"
    :aria-label="label"
    :aria-labelledby="label ? undefined : id + '-label'"
  >
    <label v-for="c in choices" :key="c.key">
      <RadioButton v-model="value" :name="id" :value="c.key" :invalid="invalid" /> {{ c.label }}
    </label>
  </span>
  <span
    v-else-if="type === 'several_choices' && (choices?.length ?? 0) <= 8"
    class="choices"
    role="group"
    :aria-label="label"
    :aria-labelledby="label ? undefined : id + '-label'"
  >
    <label v-for="c in choices" :key="c.key">
      <Checkbox v-model="several" :value="c.key" :invalid="invalid" /> {{ c.label }}
    </label>
  </span>
  <MultiSelect
    v-else-if="type === 'several_choices'"
    v-model="several"
    :input-id="id"
    :options="choices"
    option-label="label"
    option-value="key"
    filter
    :virtual-scroller-options="longList(choices)"
    display="chip"
    placeholder="Choose"
    :aria-label="label"
    :invalid="invalid"
    fluid
  />
  <AddressInput
    v-else-if="type === 'address'"
    :id="id"
    v-model="value"
    :invalid="invalid"
    :label="label"
    :described-by="describedBy"
  />
  <FileInput
    v-else-if="type === 'picture' || type === 'file'"
    :id="id"
    v-model="value"
    :picture="type === 'picture'"
    :label="label"
    :described-by="describedBy"
  />
  <Select
    v-else-if="type === 'choice'"
    v-model="value"
    :input-id="id"
    :options="choices"
    option-label="label"
    option-value="key"
    :filter="!!longList(choices)"
    :virtual-scroller-options="longList(choices)"
    show-clear
    placeholder="Choose"
    :aria-label="label"
    :invalid="invalid"
  />
  <ReferenceInput
    v-else-if="(type === 'reference' || type === 'person') && find"
    :id="id"
    v-model="chosen"
    :find="find"
    :label="label"
    :invalid="invalid"
  />
  <InputText
    v-else
    v-bind="common"
    v-model="text"
    :type="type === 'email' ? 'email' : type === 'phone' ? 'tel' : type === 'web_link' ? 'url' : 'text'"
    fluid
  />
</template>

<style scoped>
.number {
  width: 9rem;
  font-variant-numeric: tabular-nums;
}
.currency {
  width: 4rem;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1.2rem;
  padding: 0.35rem 0;
}
.choices label {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  cursor: pointer;
}
</style>
