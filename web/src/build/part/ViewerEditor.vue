<script setup lang="ts">
import { computed } from 'vue'
import type { Part, ViewerDef } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import type { PathOption } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import PathPicker from '../conditions/PathPicker.vue'
import type { PartEditorProps } from './editor'

/** Which file of which record is shown. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const viewer = computed(() => props.part.viewer!)
const objectOf = useObjectOf(() => props.step)
const object = computed(() => objectOf(viewer.value.source))
const files = ({ field }: PathOption) => fieldTypes[resultOf(field)].family === 'file'

function change(some: Partial<ViewerDef>): void {
  emit('change', { viewer: { ...viewer.value, ...some } })
}
</script>

<template>
  <div class="row">
    of
    <KnownPicker
      :model-value="viewer.source"
      :place="step"
      kind="record"
      label="Whose file is shown"
      placeholder="one record"
      @update:model-value="change({ source: $event })"
    />
    <PathPicker
      v-if="object"
      :model-value="viewer.path"
      :object="object"
      label="Which file"
      placeholder="which file"
      :only="files"
      @update:model-value="change({ path: $event })"
    />
  </div>
</template>
