<script setup lang="ts">
import type { Face } from '@/api/types'
import { resultOf } from '@/fields/fields'
import RemoveButton from '@/frame/RemoveButton.vue'
import type { PathOption } from '../build'
import { rowPlace } from '../conditions/context'
import KnownPicker from '../conditions/KnownPicker.vue'
import PathPicker from '../conditions/PathPicker.vue'
import DoEditor from '../page/DoEditor.vue'
import ColumnsEditor from '../sheet/ColumnsEditor.vue'

/** How a record looks on its card, laid out like one, and what pressing it does. */
const props = defineProps<{ pointer: string; step: string; object: string; alone: boolean }>()
const face = defineModel<Face>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const place = () => rowPlace(props.object, props.step)
const pictures = ({ field }: PathOption) => resultOf(field) === 'picture'

function change(some: Partial<Face>): void {
  face.value = { ...face.value, ...some }
}
</script>

<template>
  <div v-if="object" class="face">
    <div class="row">
      <PathPicker
        :model-value="face.heading"
        :object="object"
        label="At the head of the card"
        placeholder="at the head"
        class="head"
        @update:model-value="change({ heading: $event })"
      />
      <PathPicker
        :model-value="face.picture ?? ''"
        :object="object"
        label="Picture of the card"
        placeholder="no picture"
        :only="pictures"
        @update:model-value="change({ picture: $event || undefined })"
      />
      <RemoveButton v-if="!alone" label="Remove the face" @press="emit('remove')" />
    </div>
    <ColumnsEditor
      :model-value="face.lines ?? []"
      :object="object"
      label="lines"
      @update:model-value="change({ lines: $event })"
    />
    <ColumnsEditor
      :model-value="(face.marks ?? []).map((path) => ({ path }))"
      :object="object"
      label="marks"
      @update:model-value="change({ marks: $event.map((c) => c.path) })"
    />
    <div class="row">
      looks so when
      <KnownPicker
        :model-value="face.when ?? ''"
        :place="place()"
        kind="yesno"
        label="The card looks so when"
        placeholder="always"
        @update:model-value="change({ when: $event || undefined })"
      />
    </div>
    <div class="row muted">
      {{ face.do?.length ? 'Pressing it:' : 'Pressing it opens the record, unless it is to' }}
    </div>
    <DoEditor
      :model-value="face.do ?? []"
      :pointer="pointer + '/do'"
      :place="place()"
      :object="object"
      @update:model-value="change({ do: $event.length ? $event : undefined })"
    />
  </div>
</template>

<style scoped>
.face {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
  border: 1px solid var(--line);
  border-radius: 4px;
  padding: 0.5rem 0.7rem;
  align-self: stretch;
}
.head {
  font-weight: 600;
}
</style>
