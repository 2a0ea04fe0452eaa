<script setup lang="ts">
import MultiSelect from 'primevue/multiselect'
import { computed } from 'vue'
import type { Part } from '@/api/types'
import { useBuild } from '../build'
import type { PartEditorProps } from './editor'

/** Which objects are looked through, in the order in which their records are listed. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const objects = computed(() => props.part.finder?.objects ?? [])
</script>

<template>
  <div class="row">
    finds
    <MultiSelect
      :model-value="objects"
      :options="build.own"
      option-label="plural"
      option-value="key"
      filter
      size="small"
      placeholder="records of …"
      aria-label="What is looked through"
      @update:model-value="emit('change', { finder: { objects: $event } })"
    />
    by what they are called
  </div>
</template>
