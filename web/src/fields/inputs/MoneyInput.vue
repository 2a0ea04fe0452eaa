<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed } from 'vue'
import type { Money } from '../formats'
import { read, written } from '../numerals'
import { heard, type InputProps } from './input'

/** An amount, and the currency it is in. */
const props = defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })

const amount = computed({
  get: () => written((value.value as Money | null)?.amount ?? ''),
  set: (v: string | undefined) => (value.value = v ? { amount: read(v), currency: currency.value } : null),
})
const currency = computed({
  get: () => (value.value as Money | null)?.currency ?? props.currency ?? 'EUR',
  set: (v: string | undefined) =>
    (value.value = { amount: read(amount.value), currency: (v ?? '').toUpperCase() }),
})
</script>

<template>
  <span class="row">
    <InputText v-bind="heard(props)" v-model="amount" inputmode="decimal" class="number" />
    <InputText v-model="currency" aria-label="Currency" maxlength="3" class="currency" />
  </span>
</template>

<style scoped>
.number {
  width: 9rem;
  font-variant-numeric: tabular-nums;
}
.currency {
  width: 4rem;
}
</style>
