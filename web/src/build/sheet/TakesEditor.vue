<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import type { Take } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { offered, typesWhere } from '@/fields/fields'
import { keyFrom, useBuild } from '../build'
import { put } from '../document'
import { useSheet } from './context'
import { sheetRows } from './rows'
import KeySlot from './KeySlot.vue'
import TextSlot from './TextSlot.vue'

/** What a walkthrough is handed by the page or button that opens it. */
const props = defineProps<{ takes: Take[]; page?: boolean }>()
const build = useBuild()
const sheet = useSheet()
const types = offered(typesWhere((kind) => kind.handed))

function set(takes: Take[]): void {
  void sheet.edit(put('/takes', takes))
}

function change(i: number, some: Partial<Take>): void {
  set(props.takes.map((t, n) => (n === i ? { ...t, ...some } : t)))
}

async function remove(i: number): Promise<void> {
  if (await sheet.removable(`/takes/${i}`, `“${props.takes[i].label}”`))
    set(props.takes.filter((_, n) => n !== i))
}

function add(object: string): void {
  const o = build.object(object)
  const key = keyFrom(o?.label ?? object, [
    ...props.takes.map((t) => t.key),
    ...sheetRows(sheet.steps.value).flatMap((r) => r.step?.key ?? []),
  ])
  set([...props.takes, { key, label: o?.label ?? object, type: 'reference', object, required: true }])
}
</script>

<template>
  <div class="handed">
    <slot />
    <span class="muted">Opened with</span>
    <template v-for="(t, i) in takes" :key="t.key">
      <span class="tag">
        <TextSlot
          :model-value="t.label"
          label="Label of what is handed over"
          @update:model-value="change(i, { label: $event })"
        />
        <KeySlot :pointer="`/takes/${i}`" :name="t.key" :label="'Key of ' + t.label" />
        <Select
          :model-value="t.type"
          :options="types"
          option-label="label"
          option-value="key"
          size="small"
          :aria-label="'Type of ' + t.label"
          @update:model-value="change(i, { type: $event, several: undefined })"
        />
        <Select
          v-if="t.type === 'reference'"
          :model-value="t.object"
          :options="build.own"
          option-label="label"
          option-value="key"
          filter
          size="small"
          :aria-label="'Object of ' + t.label"
          @update:model-value="change(i, { object: $event })"
        />
        <Button
          v-if="t.type === 'reference' && !page"
          text
          size="small"
          :label="t.several ? 'several' : 'one'"
          @click="change(i, { several: t.several ? undefined : true })"
        />
        <Button
          text
          size="small"
          :label="t.required ? 'required' : 'if there is one'"
          @click="change(i, { required: t.required ? undefined : true })"
        />
        <RemoveButton :label="'Do not take ' + t.label" @press="remove(i)" />
      </span>
    </template>
    <Select
      :key="takes.length"
      :model-value="''"
      :options="build.own"
      option-label="label"
      option-value="key"
      filter
      size="small"
      :placeholder="takes.length ? 'and …' : 'nothing; or a …'"
      aria-label="Opened with"
      @update:model-value="add"
    />
  </div>
</template>

<style scoped src="./handed.css"></style>
