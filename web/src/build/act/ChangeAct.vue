<script setup lang="ts">
import { computed } from 'vue'
import type { ChangeSettings } from '@/api/types'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useKnown } from '../conditions/context'
import ValuesEditor from '../conditions/ValuesEditor.vue'
import { withSetting } from './settings'
import { typeAt } from './typeat'

/** Sets fields of a record, of all records of a list, or of the rows that a button is about. */
const props = defineProps<{ place: string; rows?: string }>()
const change = defineModel<ChangeSettings>({ required: true })
const build = useBuild()
const known = useKnown()
const type = computed(() => typeAt(build, known.names(props.place), change.value.of ?? ''))
const object = computed(() => (change.value.of ? type.value?.object : props.rows) ?? '')

function setOf(of: string): void {
  const next = typeAt(build, known.names(props.place), of)
  const same = next?.object && next.object === object.value
  change.value = {
    of: of || undefined,
    item: next?.kind === 'list' ? 'each_' + next.object : undefined,
    values: same ? change.value.values : [],
  }
}
</script>

<template>
  <div class="row">
    Change
    <KnownPicker
      :model-value="change.of ?? ''"
      :place="place"
      kind="records"
      label="What is changed"
      :placeholder="rows ? 'the rows' : 'which records'"
      @update:model-value="setOf"
    />
    <span v-if="change.item" class="muted">each is known as “{{ change.item }}”</span>
  </div>
  <ValuesEditor
    v-if="object"
    :object="object"
    :place="place"
    :values="change.values"
    @set="(field, value) => (change = { ...change, values: withSetting(change.values, field, value) })"
    @unset="change = { ...change, values: withSetting(change.values, $event, undefined) }"
  />
  <p v-else class="muted">Say which records, then what of them is changed.</p>
</template>
