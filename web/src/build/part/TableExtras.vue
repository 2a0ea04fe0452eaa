<script setup lang="ts">
import type { TablePart } from '@/api/types'
import AskEditor from './AskEditor.vue'
import { rowPlace } from '../conditions/context'
import ButtonsEditor from '../page/ButtonsEditor.vue'
import InsideEditor from '../page/InsideEditor.vue'
import MarksEditor from '../page/MarksEditor.vue'
import ShippedViews from '../page/ShippedViews.vue'

/** What a table on a screen has besides its rows: views, marks, what rows open to, buttons. */
const props = defineProps<{
  table: TablePart
  object: string
  step: string
  pointer: string
  page?: boolean
}>()
const emit = defineEmits<{ change: [table: TablePart] }>()

function change(some: Partial<TablePart>): void {
  emit('change', { ...props.table, ...some })
}
</script>

<template>
  <AskEditor
    v-if="!page"
    :model-value="table.ask ?? []"
    :pointer="pointer + '/ask'"
    :step="step"
    first="whole_number"
    @update:model-value="
      change({ ask: $event.length ? $event : undefined, ...($event.length ? { select: 'several' } : {}) })
    "
  />
  <details :open="!!(table.views?.length || table.marks?.length || table.inside || table.buttons?.length)">
    <summary>Views, marks, what rows open to, buttons</summary>
    <ShippedViews
      :model-value="table.views ?? []"
      where="in the rehearsal"
      @update:model-value="change({ views: $event.length ? $event : undefined })"
    />
    <MarksEditor
      :model-value="table.marks ?? []"
      :pointer="pointer + '/marks'"
      :place="rowPlace(object, step)"
      :object="object"
      :columns="table.columns"
      @update:model-value="change({ marks: $event })"
    />
    <InsideEditor
      :model-value="table.inside"
      :object="object"
      :pointer="pointer + '/inside'"
      :step="step"
      @update:model-value="change({ inside: $event })"
    />
    <ButtonsEditor
      :model-value="table.buttons ?? []"
      :pointer="pointer + '/buttons'"
      :place="rowPlace(object, step)"
      :object="object"
      @update:model-value="change({ buttons: $event })"
    />
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  color: var(--accent);
  margin: 0.4rem 0;
}
</style>
