<script setup lang="ts">
import { computed } from 'vue'
import type { Tried } from '@/surface/reactions'
import TraceList from '../TraceList.vue'
import { events } from './events'

/** What came of a reaction that was tried while the page is built. */
const props = defineProps<{ tried: Tried }>()
const cameOf = computed(() => events[props.tried.event].words)
</script>

<template>
  <div>
    <h3>Tried</h3>
    <p class="muted">When {{ cameOf }}. The records were put back.</p>
    <TraceList :trace="tried.trace" />
  </div>
</template>

<style scoped>
h3 {
  font-size: 0.85rem;
  color: var(--muted);
}
p {
  margin: 0.3rem 0;
}
</style>
