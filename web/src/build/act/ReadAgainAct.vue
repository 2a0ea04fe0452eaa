<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { ReadAgain } from '@/api/types'
import { usePartsHere } from './parts'

/** Reads a part of the page or screen again. */
const again = defineModel<ReadAgain>({ required: true })
const props = defineProps<{ place: string }>()
const here = usePartsHere(() => props.place)
const everything = { key: '', label: 'all there is' }
const parts = computed(() => [everything, ...here()])
</script>

<template>
  <Select
    :model-value="again.part ?? ''"
    :options="parts"
    option-label="label"
    option-value="key"
    size="small"
    aria-label="What is read again"
    @update:model-value="again = { part: $event || undefined }"
  />
</template>
