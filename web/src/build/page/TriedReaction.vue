<script setup lang="ts">
import type { Tried } from '@/surface/source'
import TraceList from '../TraceList.vue'

/** What came of a button or a reaction that was tried while the page is built. */
defineProps<{ tried: Tried }>()
</script>

<template>
  <div>
    <h3>Tried</h3>
    <p class="muted">When {{ tried.by }}. The records were put back.</p>
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
