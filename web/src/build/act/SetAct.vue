<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Set as SetSettings } from '@/api/types'
import KnownPicker from '../conditions/KnownPicker.vue'
import { usePartsHere } from './parts'

/** Puts a value into an input of the page or screen. */
const set = defineModel<SetSettings>({ required: true })
const props = defineProps<{ place: string; rows?: string }>()
const here = usePartsHere(() => props.place)
const inputs = computed(() => here().filter((p) => p.input))
</script>

<template>
  <div class="row">
    <Select
      :model-value="set.part"
      :options="inputs"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="which input"
      aria-label="The input that is set"
      @update:model-value="set = { ...set, part: $event }"
    />
    to
    <KnownPicker
      :model-value="set.value ?? ''"
      :place="place"
      label="What it is set to"
      placeholder="nothing"
      @update:model-value="set = { ...set, value: $event || undefined }"
    />
  </div>
</template>
