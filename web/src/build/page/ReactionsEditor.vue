<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Page, Reaction } from '@/api/types'
import type { Tried } from '@/surface/source'
import { put } from '../document'
import { keyFrom } from '../build'
import { useSheet } from '../sheet/context'
import ReactionEditor from './ReactionEditor.vue'
import TriedReaction from './TriedReaction.vue'

/** All that the page does by itself, in sentences, and what came of it when it was tried last. */
const props = defineProps<{ page: Page; tried: Tried | null }>()
/** Otherwise records are put back. */
const keeps = defineModel<boolean>('keeps', { required: true })
const sheet = useSheet()
const reactions = computed(() => props.page.reactions ?? [])
function set(next: Reaction[]): void {
  void sheet.edit(put('/reactions', next))
}

function add(): void {
  const key = keyFrom(
    'reaction',
    reactions.value.map((r) => r.key),
  )
  set([...reactions.value, { key, when: { event: 'opened' }, do: [] }])
}
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
      <ReactionEditor
        v-for="(r, i) in reactions"
        :key="r.key"
        :model-value="r"
        :page="page"
        :pointer="`/reactions/${i}`"
        @update:model-value="set(reactions.map((o, n) => (n === i ? $event : o)))"
        @remove="set(reactions.filter((_, n) => n !== i))"
      />
      <Button text size="small" label="When something happens …" @click="add" />
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
