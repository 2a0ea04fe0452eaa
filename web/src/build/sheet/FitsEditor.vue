<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Fits, Operand } from '@/api/types'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import ValuesEditor from '../conditions/ValuesEditor.vue'

/** Which records an input offers: all, or those that a field of a record may refer to. */
const props = defineProps<{ step: string; object: string }>()
const fits = defineModel<Fits | undefined>({ required: true })
const build = useBuild()
const everything = 'all'

const places = computed(() => [
  { key: everything, label: 'all of them' },
  ...build.referrers(props.object).map((r) => ({
    key: r.object.key + '.' + r.field.key,
    label: `what fits as ${r.field.label} of ${r.object.label}`,
  })),
])
const place = computed(() => (fits.value ? fits.value.object + '.' + fits.value.field : everything))
const edited = computed(() => build.object(fits.value?.object ?? ''))

function choose(key: string): void {
  const [object = '', field = ''] = key.split('.')
  fits.value = key === everything ? undefined : { object, field }
}
function set(field: string, value: Operand | undefined): void {
  if (!fits.value || !value) return
  const others = (fits.value.values ?? []).filter((v) => v.field !== field)
  fits.value = { ...fits.value, values: [...others, { field, value }] }
}
function unset(field: string): void {
  if (!fits.value) return
  fits.value = { ...fits.value, values: (fits.value.values ?? []).filter((v) => v.field !== field) }
}
</script>

<template>
  <div class="row">
    offers
    <Select
      :model-value="place"
      :options="places"
      option-label="label"
      option-value="key"
      size="small"
      filter
      aria-label="Which records are offered"
      @update:model-value="choose"
    />
    <template v-if="fits">
      of
      <KnownPicker
        :model-value="fits.record ?? ''"
        :place="step"
        label="The record being edited"
        kind="record"
        :object="fits.object"
        :placeholder="'a new ' + (edited?.label.toLowerCase() ?? 'record')"
        @update:model-value="fits = { ...fits, record: $event || undefined }"
      />
    </template>
  </div>
  <div v-if="fits" class="of-it">
    <span class="muted">What is known of it:</span>
    <ValuesEditor :object="fits.object" :place="step" :values="fits.values ?? []" @set="set" @unset="unset" />
  </div>
</template>

<style scoped>
.of-it {
  padding-left: 1rem;
  border-left: 2px solid var(--line);
}
</style>
