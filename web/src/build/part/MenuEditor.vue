<script setup lang="ts">
import { computed } from 'vue'
import type { Part } from '@/api/types'
import type { PartEditorProps } from './editor'

/** What a menu offers. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const menu = computed(() => props.part.menu!)
const all = [
  { key: 'unfinished', label: 'what they did not finish' },
  { key: 'pages', label: 'pages' },
  { key: 'walkthroughs', label: 'walkthroughs' },
] as const

function set(key: (typeof all)[number]['key'], on: boolean): void {
  emit('change', { menu: { ...menu.value, [key]: on || undefined } })
}
</script>

<template>
  <div class="row">
    offers
    <label v-for="o in all" :key="o.key">
      <input
        type="checkbox"
        :checked="menu[o.key] ?? false"
        @change="set(o.key, ($event.target as HTMLInputElement).checked)"
      />
      {{ o.label }}
    </label>
  </div>
</template>
