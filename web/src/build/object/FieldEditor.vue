<script setup lang="ts">
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import type { FieldDef, Name } from '@/api/types'
import { fieldTypes, offered, typesWhere, type FieldType, isSingle } from '@/fields/fields'
import { useBuild } from '../build'
import HeldInput from '../HeldInput.vue'
import TextSlot from '../sheet/TextSlot.vue'
import CandidateEditor from './CandidateEditor.vue'
import ChoicesEditor from './ChoicesEditor.vue'
import ExpressionSlot from './ExpressionSlot.vue'
import type { Records } from './records'
import { usesOfChoice, usesOfField } from './uses'
import UsesList from './UsesList.vue'

/** All settings of one field, as sentences. */
const props = defineProps<{
  object: string
  field: FieldDef
  records: Records
  record: number
  recordLabel: string
  names: Name[]
  stands: boolean
  currency: string
  /** The server has the field as it is here. */
  stored: boolean
}>()
const emit = defineEmits<{
  change: [field: FieldDef]
  remove: []
  stand: []
  rename: [key: string]
  renameChoice: [from: string, to: string]
}>()
const build = useBuild()
const kind = computed(() => fieldTypes[props.field.type])
const types = offered(typesWhere(() => true))
const results = offered(typesWhere((of, type) => !of.given && of.family !== 'record' && isSingle(type)))
const isText = computed(() => kind.value.family === 'text')
const bounded = computed(() => kind.value.bounded)
const given = computed(() => !kind.value.given)
const refers = computed(() => kind.value.family === 'record')

function change(some: Partial<FieldDef>): void {
  const next = { ...props.field, ...some }
  for (const key of Object.keys(some) as (keyof FieldDef)[])
    if (next[key] === undefined || next[key] === '' || next[key] === false) delete next[key]
  emit('change', next as FieldDef)
}

// What a field is to refer to is chosen before it becomes a reference.
const pointing = ref(false)

/** A field of another type keeps what makes sense there. */
function setType(type: FieldType, object?: string): void {
  pointing.value = type === 'reference' && props.field.type !== 'reference' && !object
  if (pointing.value) return
  const next: Partial<FieldDef> = { type, default: undefined, default_expression: undefined }
  if (type !== 'choice' && type !== 'several_choices') next.choices = undefined
  else if (!props.field.choices?.length) next.choices = [{ key: 'first', label: 'First' }]
  if (!fieldTypes[type].bounded) Object.assign(next, { least: undefined, most: undefined })
  next.object = type === 'reference' ? (object ?? props.field.object) : undefined
  if (fieldTypes[type].family !== 'record') next.candidates = undefined
  if (type === 'worked_out')
    Object.assign(next, { expression: '""', result: 'text', required: undefined, unique: undefined })
  else Object.assign(next, { expression: undefined, result: undefined })
  change(next)
}

/** The lists of records that refer to this one, as expressions call them. */
const lists = computed(() => {
  const all = build.referrers(props.object)
  return all.map(
    (r) =>
      `all_${r.object.key}` +
      (all.filter((o) => o.object.key === r.object.key).length > 1 ? `_by_${r.field.key}` : ''),
  )
})

function bound(key: 'least' | 'most', text: string): void {
  const n = text.trim() === '' ? undefined : Number(text)
  if (n === undefined || Number.isInteger(n)) change({ [key]: n })
}
</script>

<template>
  <div class="settings" role="group" :aria-label="'Settings of ' + field.label">
    <div class="row">
      <TextSlot
        :model-value="field.label"
        label="Name of the field"
        class="name"
        @update:model-value="change({ label: $event })"
      />
      <span class="muted">known as</span>
      <TextSlot
        :model-value="field.key"
        label="Key of the field"
        class="key"
        @update:model-value="emit('rename', $event)"
      />
      holds
      <Select
        :model-value="pointing ? 'reference' : field.type"
        :options="types"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="Type of the field"
        @update:model-value="setType"
      />
      <Select
        v-if="pointing"
        :model-value="undefined"
        :options="build.own"
        option-label="label"
        option-value="key"
        placeholder="to a …"
        size="small"
        filter
        aria-label="Object it is to refer to"
        @update:model-value="setType('reference', $event)"
      />
      <Select
        v-if="field.type === 'reference'"
        :model-value="field.object"
        :options="build.own"
        option-label="label"
        option-value="key"
        size="small"
        filter
        aria-label="Object it refers to"
        @update:model-value="change({ object: $event, candidates: undefined })"
      />
      <span class="space" />
      <Button
        v-if="!stands && !refers && isSingle(field.type)"
        text
        size="small"
        label="Stands for the record"
        @click="emit('stand')"
      />
      <Button text size="small" severity="danger" label="Remove the field" @click="emit('remove')" />
    </div>
    <div v-if="given" class="row">
      <label class="row"
        ><Checkbox
          :model-value="!!field.required"
          binary
          @update:model-value="change({ required: $event })"
        />required</label
      >
      <label v-if="!refers && isSingle(field.type)" class="row"
        ><Checkbox
          :model-value="!!field.unique"
          binary
          @update:model-value="change({ unique: $event })"
        />unique</label
      >
      <template v-if="bounded">
        <template v-if="!isText">
          at least
          <InputText
            :model-value="field.least === undefined ? '' : String(field.least)"
            size="small"
            class="number"
            aria-label="Least"
            placeholder="any"
            @change="bound('least', ($event.target as HTMLInputElement).value)"
          />
        </template>
        at most
        <InputText
          :model-value="field.most === undefined ? '' : String(field.most)"
          size="small"
          class="number"
          aria-label="Most"
          placeholder="any"
          @change="bound('most', ($event.target as HTMLInputElement).value)"
        />
        {{ isText ? 'characters' : '' }}
      </template>
      help
      <TextSlot
        :model-value="field.help ?? ''"
        label="Help text"
        placeholder="none"
        class="help"
        @update:model-value="change({ help: $event })"
      />
    </div>
    <div v-if="given && !refers && kind.family !== 'file'" class="row">
      a new record begins with
      <span class="default">
        <HeldInput
          :id="'default-' + field.key"
          :model-value="field.default ?? null"
          :type="field.type"
          :choices="field.choices"
          :currency="currency"
          :label="'Default of ' + field.label"
          @update:model-value="change({ default: $event ?? undefined, default_expression: undefined })"
        />
      </span>
      or the result of
      <TextSlot
        :model-value="field.default_expression ?? ''"
        label="Default as an expression"
        placeholder="today"
        @update:model-value="change({ default_expression: $event, default: undefined })"
      />
    </div>
    <label v-if="field.type === 'text' || field.type === 'long_text'" class="row"
      ><Checkbox
        :model-value="!!field.ignore_accents"
        binary
        @update:model-value="change({ ignore_accents: $event || undefined })"
      />found without accents too (“Zurich” finds Zürich)</label
    >
    <label v-if="field.type === 'web_link'" class="row"
      ><Checkbox
        :model-value="!!field.new_tab"
        binary
        @update:model-value="change({ new_tab: $event })"
      />opens in a tab of its own</label
    >
    <div v-if="field.type === 'running_number'" class="row">
      written with
      <TextSlot
        :model-value="field.prefix ?? ''"
        label="What stands before the number"
        placeholder="SC-"
        @update:model-value="change({ prefix: $event })"
      />
      before it
    </div>
    <div v-if="field.type === 'worked_out'" class="row">
      <ExpressionSlot
        :model-value="field.expression ?? ''"
        label="Expression"
        placeholder='first_name + " " + last_name'
        :records="records"
        :record="record"
        :record-label="recordLabel"
        @update:model-value="change({ expression: $event })"
      />
      gives
      <Select
        :model-value="field.result"
        :options="results"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="Type of the result"
        @update:model-value="change({ result: $event })"
      />
    </div>
    <p v-if="field.type === 'worked_out' && lists.length" class="muted hint">
      Records that refer to this one are known as {{ lists.join(', ') }}: sum({{ lists[0] }}.map(x, x.…)),
      size({{ lists[0] }}.filter(x, x.…)), least, greatest, average, exists, all.
    </p>
    <ChoicesEditor
      v-if="field.type === 'choice' || field.type === 'several_choices'"
      :model-value="field.choices ?? []"
      :uses="(choice) => usesOfChoice(object, field.key, choice)"
      @update:model-value="change({ choices: $event })"
      @rename="(from, to) => emit('renameChoice', from, to)"
    />
    <CandidateEditor
      v-if="refers"
      :field="field"
      :records="records"
      :record="record"
      :names="names"
      @change="change({ candidates: $event })"
    />
    <UsesList :key="field.key" :stored="stored" :ask="() => usesOfField(object, field.key)" />
  </div>
</template>

<style scoped>
.settings {
  border-left: 3px solid var(--accent);
  background: var(--panel);
  padding: 0.7rem 0.8rem;
  display: flex;
  flex-direction: column;
  gap: 0.6rem;
}
.name {
  font-weight: 650;
}
.key {
  width: 9rem;
  font-family: ui-monospace, monospace;
}
.number {
  width: 5rem;
}
.help {
  flex: 1;
}
.hint {
  margin: 0;
  font-size: 0.9rem;
}
.default {
  min-width: 11rem;
}
</style>
