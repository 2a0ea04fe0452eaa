<script setup lang="ts">
import Select from 'primevue/select'
import type { Add } from '@/api/types'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useKnown } from '../conditions/context'
import ValuesEditor from '../conditions/ValuesEditor.vue'
import { fitting } from './fitting'
import { withSetting } from './settings'
import { typeAt } from './typeat'

/** Adds one record, or one for each of a list. */
const props = defineProps<{ place: string }>()
const add = defineModel<Add>({ required: true })
const build = useBuild()
const known = useKnown()

/** Fields that nothing is said of yet take what the list has for them. */
function setForEach(list: string): void {
  const type = typeAt(build, known.names(props.place), list)
  const item = add.value.item || type?.object || 'each_row'
  const values = list ? [...add.value.values, ...fitting(build, add.value, item, type)] : add.value.values
  add.value = { ...add.value, for_each: list || undefined, item: list ? item : undefined, values }
}
</script>

<template>
  <div class="row">
    Add a
    <Select
      :model-value="add.object"
      :options="build.own"
      option-label="label"
      option-value="key"
      filter
      size="small"
      placeholder="which"
      aria-label="What is added"
      @update:model-value="add = { ...add, object: $event, values: [] }"
    />
    for each of
    <KnownPicker
      :model-value="add.for_each ?? ''"
      :place="place"
      kind="lists"
      label="For each of"
      placeholder="no list: just one"
      @update:model-value="setForEach"
    />
    <span v-if="add.for_each" class="muted">known inside as “{{ add.item }}”</span>
  </div>
  <ValuesEditor
    adds
    :object="add.object"
    :place="place"
    :values="add.values"
    @set="(field, value) => (add = { ...add, values: withSetting(add.values, field, value) })"
    @unset="add = { ...add, values: withSetting(add.values, $event, undefined) }"
  />
</template>
