<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import type { Asked } from '@/api/types'
import { fieldTypes, isSingle, offered, typesWhere } from '@/fields/fields'
import RemoveButton from '@/frame/RemoveButton.vue'
import { keyFrom } from '../build'
import KeySlot from '../sheet/KeySlot.vue'
import TextSlot from '../sheet/TextSlot.vue'
import NewValue from './NewValue.vue'

/** What people may give in each row of a table, such as a quantity. */
const props = defineProps<{
  pointer: string
  step: string
  /** The type that is likeliest. */
  first: Asked['type']
}>()
const ask = defineModel<Asked[]>({ required: true })
const types = offered(typesWhere((kind, type) => kind.handed && isSingle(type) && type !== 'reference'))
/** A row is one that is filled in, so that the first thing asked for is there in each. */
function add(words: string, type: Asked['type']): void {
  const key = keyFrom(words, ['row', ...ask.value.map((a) => a.key)])
  ask.value = [...ask.value, { key, label: words, type, required: !ask.value.length || undefined }]
}

function change(i: number, some: Partial<Asked>): void {
  ask.value = ask.value.map((a, n) => (n === i ? { ...a, ...some } : a))
}

function number(text: string): number | undefined {
  const n = Number(text)
  return text.trim() && Number.isInteger(n) ? n : undefined
}
</script>

<template>
  <div v-for="(a, i) in ask" :key="i" class="row">
    each row asks for
    <TextSlot
      :model-value="a.label"
      label="What each row asks for"
      @update:model-value="change(i, { label: $event })"
    />
    <KeySlot :pointer="`${props.pointer}/${i}`" :name="a.key" :label="'Key of ' + a.label" />
    <Select
      :model-value="a.type"
      :options="types"
      option-label="label"
      option-value="key"
      size="small"
      :aria-label="'Type of ' + a.label"
      @update:model-value="change(i, { type: $event, least: undefined, most: undefined })"
    />
    <label class="row"
      ><Checkbox
        binary
        :model-value="a.required ?? false"
        @update:model-value="change(i, { required: $event || undefined })"
      />
      required</label
    >
    <template v-if="fieldTypes[a.type].right && a.type !== 'money'">
      at least
      <InputText
        :model-value="String(a.least ?? '')"
        size="small"
        class="few"
        :aria-label="'Least of ' + a.label"
        @change="change(i, { least: number(($event.target as HTMLInputElement).value) })"
      />
      at most
      <InputText
        :model-value="String(a.most ?? '')"
        size="small"
        class="few"
        :aria-label="'Most of ' + a.label"
        @change="change(i, { most: number(($event.target as HTMLInputElement).value) })"
      />
    </template>
    <RemoveButton :label="'Do not ask for ' + a.label" @press="ask = ask.filter((_, n) => n !== i)" />
  </div>
  <NewValue
    :types="types"
    :first="first"
    label="What each row asks for besides"
    placeholder="nothing; or a quantity, a note …"
    button="Ask for it"
    @add="add"
    >{{ ask.length ? 'and for' : 'each row asks for' }}</NewValue
  >
</template>

<style scoped>
.few {
  width: 4.5rem;
}
</style>
