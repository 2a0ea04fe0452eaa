<script setup lang="ts">
import { computed } from 'vue'
import type { Part, ViewerDef } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import type { PathOption } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import PathPicker from '../conditions/PathPicker.vue'
import type { PartEditorProps } from './editor'

/** Which file, picture or address of which record is shown. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const objectOf = useObjectOf(() => props.step)

const kinds = {
  viewer: {
    what: 'file',
    does: (field: PathOption['field']) => fieldTypes[resultOf(field)].family === 'file',
  },
  picture: { what: 'picture', does: (field: PathOption['field']) => field.type === 'picture' },
  place: { what: 'address', does: (field: PathOption['field']) => field.type === 'address' },
}
const kind = computed(() => props.part.kind as keyof typeof kinds)
const held = computed<ViewerDef>(() => props.part[kind.value]!)
const object = computed(() => objectOf(held.value.source))

function change(some: Partial<ViewerDef>): void {
  emit('change', { [kind.value]: { ...held.value, ...some } })
}
</script>

<template>
  <div class="row">
    of
    <KnownPicker
      :model-value="held.source"
      :place="step"
      kind="record"
      :label="`Whose ${kinds[kind].what} is shown`"
      placeholder="one record"
      @update:model-value="change({ source: $event })"
    />
    <PathPicker
      v-if="object"
      :model-value="held.path"
      :object="object"
      :label="`Which ${kinds[kind].what}`"
      :placeholder="`which ${kinds[kind].what}`"
      :only="({ field }: PathOption) => kinds[kind].does(field)"
      @update:model-value="change({ path: $event })"
    />
  </div>
</template>
