<script setup lang="ts">
import Button from 'primevue/button'
import Message from 'primevue/message'
import { computed } from 'vue'
import type { FormFieldView, Heading, Ref } from '@/api/types'
import CellValue from '@/fields/CellValue.vue'
import { trackSending } from '@/fields/files'
import { format } from '@/fields/fields'
import ValueInput from '@/fields/ValueInput.vue'
import type { SurfaceSource } from '../source'
import { useUnsaved } from '../unsaved'
import type { Editing, RecordFormState } from './form'

/** One record with some of its fields, edited in place. */
const props = defineProps<{
  fields: FormFieldView[]
  form: RecordFormState
  /** Finds records for a reference. */
  find: (field: string, editing: Editing, text: string) => Promise<Ref[]>
  currency?: string
  /** How many fields stand beside each other. */
  columns?: number
  /** What the button that saves says. */
  save?: string
  /** The form has its own name among others. */
  name?: string
  source?: SurfaceSource
  /** The buttons stay in sight while the fields are scrolled. */
  stays?: boolean
}>()
const emit = defineEmits<{ saved: [] }>()
const sending = trackSending()
useUnsaved(() => (props.form.dirty.value ? 1 : 0))
const id = computed(() => props.form.view.value?.id ?? 0)
const may = computed(() => !id.value || props.form.view.value?.may_change)
const key = (f: FormFieldView): string => f.heading.path
const inputId = (f: FormFieldView): string => `rf-${props.name ?? ''}${key(f)}`

function fixed(f: FormFieldView): boolean {
  return !!f.read_only || !may.value || (props.form.view.value?.fixed.includes(key(f)) ?? false)
}

/** Retired values are offered only to the records that hold them. */
function choices(h: Heading) {
  const held = [props.form.value(h.path)].flat()
  return h.choices?.filter((c) => !c.retired || held.includes(c.key))
}

const editing = computed(() => ({ id: id.value, values: { ...blank.value, ...props.form.entered.value } }))
const blank = computed(() => (id.value ? {} : (props.form.view.value?.values ?? {})))
const clash = computed(() => props.fields.find((f) => key(f) === props.form.theirs.value?.field))

/** What is wrong with what does not stand in the form. */
const elsewhere = computed(() =>
  Object.entries(props.form.problems.value)
    .filter(([field]) => !props.fields.some((f) => key(f) === field))
    .map(([, text]) => text),
)

async function submit(): Promise<void> {
  if (await props.form.save()) emit('saved')
}

/** Mine is saved over theirs. */
async function insist(): Promise<void> {
  if (await props.form.settle(true)) emit('saved')
}
</script>

<template>
  <form class="record" @submit.prevent="submit">
    <Message v-if="form.failed.value" severity="error" :closable="false" role="alert">
      {{ elsewhere.length ? elsewhere.join('. ') : form.failed.value }}
      <template v-if="clash">
        Theirs is “{{ format(clash.heading, form.theirs.value?.value) || 'empty' }}”.
        <Button text size="small" label="Keep theirs" @click="form.settle(false)" />
        <Button text size="small" label="Save mine" @click="insist" />
      </template>
    </Message>
    <div class="fields" :style="{ '--columns': columns ?? 1 }">
      <template v-for="f in fields" :key="key(f)">
        <h3 v-if="f.group" class="group">{{ f.group }}</h3>
        <div class="field" :class="{ wide: f.wide }">
          <label :id="inputId(f) + '-label'" :for="inputId(f)"
            >{{ f.heading.label
            }}<span v-if="f.required && !fixed(f)" class="muted" title="required"> *</span></label
          >
          <div>
            <span v-if="fixed(f)" class="fixed">
              <CellValue
                v-if="form.value(key(f)) !== null"
                :heading="f.heading"
                :value="form.value(key(f))"
                :source="source"
              /><span v-else class="muted">{{ id ? '—' : 'comes by itself' }}</span>
            </span>
            <ValueInput
              v-else
              :id="inputId(f)"
              :model-value="form.value(key(f))"
              :type="f.heading.type"
              :choices="choices(f.heading)"
              :currency="currency"
              :invalid="!!form.problems.value[key(f)]"
              :described-by="form.problems.value[key(f)] ? inputId(f) + '-problem' : undefined"
              :find="(text) => find(key(f), editing, text)"
              @update:model-value="form.set(key(f), $event)"
            />
            <small v-if="f.help && !fixed(f)" class="muted">{{ f.help }}</small>
            <small
              v-if="form.problems.value[key(f)]"
              :id="inputId(f) + '-problem'"
              class="bad"
              role="alert"
              >{{ form.problems.value[key(f)] }}</small
            >
          </div>
        </div>
      </template>
    </div>
    <div class="buttons" :class="{ stays }">
      <Button
        v-if="fields.some((f) => !fixed(f))"
        type="submit"
        size="small"
        :label="save || (id ? 'Save' : 'Add')"
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
.fields {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
  gap: 0.45rem 1.6rem;
}
.group,
.wide {
  grid-column: 1 / -1;
}
.group {
  margin: 0.6rem 0 0;
}
@media (max-width: 640px) {
  .fields {
    grid-template-columns: minmax(0, 1fr);
  }
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
  padding: 0.6rem 0;
}
.stays {
  position: sticky;
  bottom: 0;
  background: var(--paper);
}
</style>
