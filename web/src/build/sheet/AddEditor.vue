<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref } from 'vue'
import type { Add, FieldDef, Operand, Step } from '@/api/types'
import { useBuild } from '../build'
import { drop, put, swap } from '../document'
import { useSheet } from './context'
import KnownPicker from '../conditions/KnownPicker.vue'
import OperandSlot from '../conditions/OperandSlot.vue'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useKnown } from '../conditions/context'

const props = defineProps<{ step: Step; pointer: string }>()
const build = useBuild()
const sheet = useSheet()
const here = useKnown()
const at = computed(() => props.pointer + '/add')
const add = computed<Add>(() => props.step.add!)
const object = computed(() => build.object(add.value.object))
const writable = (f: FieldDef) => f.type !== 'worked_out' && f.type !== 'running_number'
const left = computed(() =>
  (object.value?.fields ?? []).filter((f) => writable(f) && !add.value.values.some((v) => v.field === f.key)),
)
// A field just chosen stays here until it has a value.
const pending = ref<string | null>(null)
const pendingField = computed(() => object.value?.fields.find((f) => f.key === pending.value))

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

function fill(value: Operand | undefined): void {
  if (!pending.value || !value) return
  void sheet.edit(put(at.value + '/values/-', { field: pending.value, value }))
  pending.value = null
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
    <div v-for="(v, i) in add.values" :key="v.field" class="row">
      <span class="field">{{ object?.fields.find((f) => f.key === v.field)?.label ?? v.field }}</span> is
      <OperandSlot
        v-if="object?.fields.find((f) => f.key === v.field)"
        :model-value="v.value"
        :place="step.key"
        :field="object.fields.find((f) => f.key === v.field)!"
        :label="v.field"
        @update:model-value="sheet.edit(swap(`${at}/values/${i}/value`, $event))"
      />
      <RemoveButton :label="'Do not set ' + v.field" @press="sheet.edit(drop(`${at}/values/${i}`))" />
    </div>
    <div class="row">
      <Select
        v-model="pending"
        :options="left"
        option-label="label"
        option-value="key"
        size="small"
        placeholder="set a field…"
        aria-label="Set a field"
      />
      <template v-if="pendingField">
        is
        <OperandSlot
          :model-value="undefined"
          :place="step.key"
          :field="pendingField"
          :label="pendingField.label"
          @update:model-value="fill"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.editor {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
.field {
  min-width: 6rem;
  font-weight: 600;
}
</style>
