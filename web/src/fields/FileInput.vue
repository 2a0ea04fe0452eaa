<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Ref } from '@/api/types'
import FileDrop from './FileDrop.vue'
import FileValue from './FileValue.vue'

/** Gives a picture or a file. */
const props = defineProps<{ id: string; picture?: boolean; label?: string; describedBy?: string }>()
const value = defineModel<unknown>({ required: true })
const file = computed(() => (value.value as Ref | null) ?? null)
const words = computed(() => {
  if (file.value) return 'Replace…'
  return props.picture ? 'Choose a picture…' : 'Choose a file…'
})
</script>

<template>
  <FileDrop v-bind="props" :words="words" @given="value = $event" @stopped="value = null">
    <template #held><FileValue v-if="file" :file="file" :picture="picture" class="held" /></template>
    <Button v-if="file" text size="small" label="Remove" @click="value = null" />
    <span v-else class="muted">or drop one here</span>
  </FileDrop>
</template>
