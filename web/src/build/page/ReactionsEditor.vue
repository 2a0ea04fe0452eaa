<script setup lang="ts">
import { computed } from 'vue'
import type { Page } from '@/api/types'
import type { Tried } from '@/surface/source'
import ReactionList from './ReactionList.vue'
import TriedReaction from './TriedReaction.vue'

/** All that the page does by itself, in sentences, and what came of it when it was tried last. */
const props = defineProps<{ page: Page; tried: Tried | null }>()
/** Otherwise records are put back. */
const keeps = defineModel<boolean>('keeps', { required: true })
const reactions = computed(() => props.page.reactions ?? [])
</script>

<template>
  <section class="bench" aria-label="What the page does by itself">
    <div>
      <slot />
      <label class="row"
        ><input v-model="keeps" type="checkbox" /> keep what buttons and reactions write here</label
      >
      <h2>By itself</h2>
      <p v-if="!reactions.length" class="muted">
        The page does nothing by itself: what depends on something follows it at once.
      </p>
      <ReactionList :bands="page.bands" :reactions="reactions" pointer="" place="" />
    </div>
    <TriedReaction v-if="tried" :tried="tried" />
  </section>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr);
  gap: 1.2rem;
  padding: 0.8rem 1.2rem 1rem;
  border-top: 2px solid var(--accent);
  background: var(--panel);
  height: 18.5rem;
  overflow: auto;
}
.bench > div {
  display: grid;
  align-content: start;
  justify-items: start;
  gap: 0.6rem;
}
p {
  margin: 0;
}
</style>
