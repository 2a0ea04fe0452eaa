<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { FieldDef, InputPart, Operand, Part } from '@/api/types'
import { fieldTypes, offered, typesWhere, type FieldType } from '@/fields/fields'
import { keyFrom, useBuild } from '../build'
import OperandSlot from '../conditions/OperandSlot.vue'
import FitsEditor from '../sheet/FitsEditor.vue'
import TextSlot from '../sheet/TextSlot.vue'
import type { PartEditorProps } from './editor'

const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const input = computed(() => props.part.input!)
const types = offered(typesWhere((kind) => !kind.given))
const field = computed<FieldDef>(() => ({ ...input.value, key: props.part.key, label: 'Starts with' }))
const choices = computed(() => (input.value.choices ?? []).map((c) => c.label).join('\n'))

/** Records and files can be several. */
const manifold = computed(() => ['record', 'file'].includes(fieldTypes[input.value.type].family))
const unbounded = { least: undefined, most: undefined }

function count(event: Event): number | undefined {
  const text = (event.target as HTMLInputElement).value.trim()
  const n = Number(text)
  return text && Number.isInteger(n) && n >= 0 ? n : undefined
}

function change(some: Partial<InputPart>): void {
  emit('change', { input: { ...input.value, ...some } })
}

function setType(type: FieldType): void {
  const start: InputPart = { type, required: input.value.required, help: input.value.help }
  if (['choice', 'several_choices'].includes(type)) start.choices = [{ key: 'first', label: 'First' }]
  if (type === 'reference') start.object = build.own[0]?.key
  emit('change', { input: start })
}

/** One choice a line; those that stay keep their keys. */
function setChoices(text: string): void {
  const taken: string[] = []
  const next = text
    .split('\n')
    .map((l) => l.trim())
    .filter(Boolean)
    .map((label) => {
      const key = input.value.choices?.find((c) => c.label === label)?.key ?? keyFrom(label, taken)
      taken.push(key)
      return { key, label }
    })
  change({ choices: next })
}

function setDefault(o: Operand | undefined): void {
  change({ default: o && (o.expression || o.literal !== null) ? o : undefined })
}
</script>

<template>
  <div class="row">
    asks for
    <Select
      :model-value="input.type"
      :options="types"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="Type of the input"
      @update:model-value="setType"
    />
    <Select
      v-if="input.type === 'reference'"
      :model-value="input.object"
      :options="build.own"
      option-label="label"
      option-value="key"
      size="small"
      filter
      aria-label="Which object"
      @update:model-value="change({ object: $event, default: undefined, fits: undefined })"
    />
    <label class="row"
      ><Checkbox
        :model-value="!!input.required"
        binary
        @update:model-value="change({ required: $event || undefined })"
      />
      required</label
    >
    <label v-if="manifold" class="row"
      ><Checkbox
        :model-value="!!input.several"
        binary
        @update:model-value="change({ several: $event || undefined, default: undefined, ...unbounded })"
      />
      several</label
    >
    <template v-if="input.several">
      at least
      <InputText
        :model-value="String(input.least ?? '')"
        size="small"
        class="few"
        placeholder="none"
        aria-label="At least so many"
        @change="change({ least: count($event) })"
      />
      at most
      <InputText
        :model-value="String(input.most ?? '')"
        size="small"
        class="few"
        placeholder="any"
        aria-label="At most so many"
        @change="change({ most: count($event) })"
      />
    </template>
    help
    <TextSlot
      :model-value="input.help ?? ''"
      label="Help text"
      placeholder="none"
      @update:model-value="change({ help: $event || undefined })"
    />
  </div>
  <FitsEditor
    v-if="input.type === 'reference' && input.object"
    :model-value="input.fits"
    :step="step"
    :object="input.object"
    @update:model-value="change({ fits: $event })"
  />
  <div v-if="['choice', 'several_choices'].includes(input.type)" class="choices">
    <span>choices, one a line</span>
    <TextSlot long :model-value="choices" label="Choices, one a line" @update:model-value="setChoices" />
  </div>
  <div v-if="!input.several" class="row">
    starts with
    <OperandSlot
      :model-value="input.default"
      :place="step"
      :field="field"
      label="Starts with"
      @update:model-value="setDefault"
    />
  </div>
</template>

<style scoped>
.few {
  width: 3.8rem;
}
.choices {
  max-width: 22rem;
}
</style>
