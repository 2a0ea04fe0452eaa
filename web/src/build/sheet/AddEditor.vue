<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Add, Operand, Step } from '@/api/types'
import { useBuild } from '../build'
import { drop, put, swap } from '../document'
import { useSheet } from './context'
import KnownPicker from '../conditions/KnownPicker.vue'
import ValuesEditor from '../conditions/ValuesEditor.vue'
import { useKnown } from '../conditions/context'

const props = defineProps<{ step: Step; pointer: string }>()
const build = useBuild()
const sheet = useSheet()
const here = useKnown()
const at = computed(() => props.pointer + '/add')
const add = computed<Add>(() => props.step.add!)
const indexOf = (field: string) => add.value.values.findIndex((v) => v.field === field)

function setForEach(e: string): void {
  if (!e) {
    void sheet.edit(drop(at.value + '/for_each'), ...(add.value.item ? [drop(at.value + '/item')] : []))
    return
  }
  const root = e.split('.')
  const names = here.names(props.step.key)
  const name = names.find((n) => n.key === root[0])
  const type = root[1] ? name?.type.answers?.find((a) => a.key === root[1])?.type : name?.type
  void sheet.edit(
    put(at.value + '/for_each', e),
    put(at.value + '/item', add.value.item || type?.object || 'item'),
  )
}

function set(field: string, value: Operand | undefined): void {
  const i = indexOf(field)
  if (i >= 0) void sheet.edit(swap(`${at.value}/values/${i}/value`, value))
  else void sheet.edit(put(at.value + '/values/-', { field, value }))
}
</script>

<template>
  <div class="editor">
    <div class="row">
      Add a
      <Select
        :model-value="add.object"
        :options="build.own"
        option-label="label"
        option-value="key"
        filter
        size="small"
        aria-label="What is added"
        @update:model-value="sheet.edit(put(at + '/object', $event), put(at + '/values', []))"
      />
      for each of
      <KnownPicker
        :model-value="add.for_each ?? ''"
        :place="step.key"
        kind="list"
        label="For each of"
        placeholder="no list: just one"
        @update:model-value="setForEach"
      />
      <span v-if="add.for_each" class="muted">known inside as “{{ add.item }}”</span>
    </div>
    <ValuesEditor
      :object="add.object"
      :place="step.key"
      :values="add.values"
      @set="set"
      @unset="sheet.edit(drop(`${at}/values/${indexOf($event)}`))"
    />
  </div>
</template>

<style scoped>
.editor {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
</style>
