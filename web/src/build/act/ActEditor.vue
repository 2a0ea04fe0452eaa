<script setup lang="ts">
import { computed } from 'vue'
import type { Act, ActKind } from '@/api/types'
import SearchEditor from '../sheet/SearchEditor.vue'
import { acts } from './acts'
import AskedSettings from '../AskedSettings.vue'
import type { Sentence } from '../asks'

/**
 * The settings of an act, wherever it stands. Rows is the object of the rows that a button is about; inSteps says that it
 * is a step of a walkthrough, byItself that no button of a table sets it going.
 */
const props = defineProps<{
  act: Act
  pointer: string
  place: string
  rows?: string
  inSteps?: boolean
  byItself?: boolean
}>()
const emit = defineEmits<{ change: [member: ActKind, settings: object] }>()
const kind = computed(() => props.act.kind as ActKind)
const settings = computed(() => {
  const member = props.act[kind.value as keyof Act]
  return typeof member === 'object' ? { ...member } : {}
})
const editor = computed(() => acts[kind.value].editor)
const asks = computed<Sentence<Record<string, unknown>> | undefined>(() => acts[kind.value].asks)
</script>

<template>
  <SearchEditor v-if="act.search" :search="act.search" :place="place" :pointer="pointer + '/search'" />
  <component
    :is="editor"
    v-else-if="editor"
    :model-value="settings"
    :place="place"
    :rows="rows"
    :in-steps="inSteps"
    :by-itself="byItself"
    @update:model-value="emit('change', kind, $event)"
  />
  <AskedSettings
    v-else-if="asks"
    :sentence="asks"
    :model-value="settings"
    :place="place"
    :rows="rows"
    @update:model-value="emit('change', kind, $event)"
  />
</template>
