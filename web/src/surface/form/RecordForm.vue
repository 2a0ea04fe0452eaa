<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { computed } from 'vue'
import type { FieldDef, Heading, ObjectDef } from '@/api/types'
import CellValue from '@/fields/CellValue.vue'
import { trackSending } from '@/fields/files'
import { format } from '@/fields/fields'
import { useUnsaved } from '@/surface/unsaved'
import ValueInput from '@/fields/ValueInput.vue'
import { target } from '../build'
import type { RecordFormState } from './form'
import type { Records } from './records'

/** One record with all its fields, edited in place. */
const props = defineProps<{ object: ObjectDef; form: RecordFormState; records: Records; currency?: string }>()
const emit = defineEmits<{ saved: [] }>()
const sending = trackSending()
useUnsaved(() => (props.form.dirty.value ? 1 : 0))
const id = computed(() => props.form.view.value?.id ?? 0)
const may = computed(() => !id.value || props.form.view.value?.may_change)

function fixed(f: FieldDef): boolean {
  return !may.value || (props.form.view.value?.fixed.includes(f.key) ?? false)
}

function heading(f: FieldDef): Heading {
  const type = f.type === 'worked_out' ? f.result! : f.type
  return {
    path: f.key,
    label: f.label,
    type,
    prefix: f.prefix,
    choices: f.choices,
    object: target(f),
    operators: [],
  }
}

/** Retired values are offered only to the records that hold them. */
function choices(f: FieldDef) {
  const held = [props.form.value(f.key)].flat()
  return f.choices?.filter((c) => !c.retired || held.includes(c.key))
}

const editing = computed(() => ({ id: id.value, values: { ...blank.value, ...props.form.entered.value } }))
const blank = computed(() => (id.value ? {} : (props.form.view.value?.values ?? {})))
const clash = computed(() => props.object.fields.find((f) => f.key === props.form.theirs.value?.field))

async function save(): Promise<void> {
  if (await props.form.save()) emit('saved')
}
</script>

<template>
  <form class="record" @submit.prevent="save">
    <Message v-if="form.failed.value" severity="error" :closable="false" role="alert">
      {{ form.failed.value }}
      <template v-if="clash">
        Theirs is “{{ format(heading(clash), form.theirs.value?.value) || 'empty' }}”.
        <Button text size="small" label="Keep theirs" @click="form.settle(false)" />
        <Button text size="small" label="Save mine" @click="form.settle(true)" />
      </template>
    </Message>
    <div v-for="f in object.fields" :key="f.key" class="field">
      <label :id="'rf-' + f.key + '-label'" :for="'rf-' + f.key"
        >{{ f.label }}<span v-if="f.required" class="muted" title="required"> *</span></label
      >
      <div>
        <span v-if="fixed(f)" class="fixed">
          <CellValue
            v-if="form.value(f.key) !== null"
            :heading="heading(f)"
            :value="form.value(f.key)"
          /><span v-else class="muted">{{ id ? '—' : 'comes by itself' }}</span>
        </span>
        <ValueInput
          v-else
          :id="'rf-' + f.key"
          :model-value="form.value(f.key)"
          :type="f.type"
          :choices="choices(f)"
          :currency="currency"
          :invalid="!!form.problems.value[f.key]"
          :described-by="form.problems.value[f.key] ? 'rp-' + f.key : undefined"
          :find="(text) => records.options(f.key, editing, text)"
          @update:model-value="form.set(f.key, $event)"
        />
        <small v-if="f.help && !fixed(f)" class="muted">{{ f.help }}</small>
        <small v-if="form.problems.value[f.key]" :id="'rp-' + f.key" class="bad" role="alert">{{
          form.problems.value[f.key]
        }}</small>
      </div>
    </div>
    <div class="buttons">
      <Button
        type="submit"
        size="small"
        :label="id ? 'Save' : 'Add'"
        :loading="form.saving.value"
        :disabled="sending > 0 || (!!id && !form.dirty.value)"
      />
      <Button v-if="form.dirty.value && id" text size="small" label="Discard" @click="form.reset()" />
      <slot />
    </div>
  </form>
</template>

<style scoped>
.record {
  display: flex;
  flex-direction: column;
  gap: 0.45rem;
}
.field {
  display: grid;
  grid-template-columns: 6.5rem minmax(0, 1fr);
  gap: 0.6rem;
  align-items: start;
}
label {
  color: var(--muted);
  padding-top: 0.3rem;
}
.field :deep(input) {
  max-width: 100%;
  min-width: 0;
  box-sizing: border-box;
}
.fixed {
  display: block;
  padding-top: 0.3rem;
}
small {
  display: block;
}
.buttons {
  display: flex;
  gap: 0.5rem;
  align-items: center;
  position: sticky;
  bottom: 0;
  background: var(--paper);
  padding: 0.6rem 0;
}
</style>
