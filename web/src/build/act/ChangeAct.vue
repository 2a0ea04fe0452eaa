<script setup lang="ts">
import { computed } from 'vue'
import type { ChangeSettings, ExprType, Their } from '@/api/types'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useKnown } from '../conditions/context'
import ValuesEditor from '../conditions/ValuesEditor.vue'
import { withSetting } from './settings'
import TheirSlot from './TheirSlot.vue'
import { typeAt } from './typeat'

/** Sets fields of a record, of all records of a list, or of the rows that a button is about. */
const props = defineProps<{ place: string; rows?: string }>()
const change = defineModel<ChangeSettings>({ required: true })
const build = useBuild()
const known = useKnown()
const type = computed(() => typeAt(build, known.names(props.place), change.value.of ?? ''))
const of = computed(() => (change.value.of ? type.value?.object : props.rows) ?? '')
const object = computed(() => change.value.their?.object ?? of.value)

function setOf(to: string): void {
  const next = typeAt(build, known.names(props.place), to)
  if (next?.object && next.object === of.value) {
    change.value = { ...change.value, of: to || undefined, item: item(next, change.value.their) }
  } else {
    change.value = { of: to || undefined, item: item(next), values: [] }
  }
}

function setTheir(their: Their | undefined): void {
  const same = (their?.object ?? of.value) === object.value
  change.value = {
    ...change.value,
    their,
    item: item(type.value, their),
    values: same ? change.value.values : [],
  }
}

/** What each record is known as where several are changed. */
function item(of: ExprType | undefined, their?: Their): string | undefined {
  const each = their?.object ?? (of?.kind === 'list' ? of.object : undefined)
  return each && 'each_' + each
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
    <TheirSlot v-if="of" :object="of" :model-value="change.their" @update:model-value="setTheir" />
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
