<script setup lang="ts">
import { computed } from 'vue'
import type { Part } from '@/api/types'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import ColumnsEditor from '../sheet/ColumnsEditor.vue'
import type { PartEditorProps } from './editor'

const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const details = computed(() => props.part.details!)
const objectOf = useObjectOf(() => props.step)
const object = computed(() => objectOf(details.value.source))
</script>

<template>
  <div class="row">
    of
    <KnownPicker
      :model-value="details.source"
      :place="step"
      kind="record"
      label="Details of"
      placeholder="one record"
      @update:model-value="emit('change', { details: { ...details, source: $event } })"
    />
  </div>
  <ColumnsEditor
    v-if="object"
    :model-value="details.fields"
    :object="object"
    label="fields"
    @update:model-value="emit('change', { details: { ...details, fields: $event } })"
  />
</template>
