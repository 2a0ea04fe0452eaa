<script setup lang="ts">
import { IconArrowsMaximize, IconMinus, IconPlus } from '@tabler/icons-vue'

/** Larger and smaller, or as there is room. */
const zoom = defineModel<number>({ required: true })
const emit = defineEmits<{ fit: [] }>()
const step = 1.25
const times = (by: number) => (zoom.value = Math.min(6, Math.max(0.1, zoom.value * by)))
</script>

<template>
  <span class="zoom" role="group" aria-label="Size">
    <button type="button" class="plain" aria-label="Smaller" title="Smaller" @click="times(1 / step)">
      <IconMinus :size="17" />
    </button>
    <span class="muted">{{ Math.round(zoom * 100) }} %</span>
    <button type="button" class="plain" aria-label="Larger" title="Larger" @click="times(step)">
      <IconPlus :size="17" />
    </button>
    <button
      type="button"
      class="plain"
      aria-label="As there is room"
      title="As there is room"
      @click="emit('fit')"
    >
      <IconArrowsMaximize :size="17" />
    </button>
  </span>
</template>

<style scoped>
.zoom {
  display: inline-flex;
  align-items: center;
  gap: 0.4rem;
}
button {
  display: inline-flex;
  padding: 0.25rem;
  color: var(--accent);
}
</style>
