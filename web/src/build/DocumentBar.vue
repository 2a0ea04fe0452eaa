<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'
import type { DocumentKind } from './documents'
import { put, type useDocument } from './document'
import ReleaseDialog from './ReleaseDialog.vue'
import TextSlot from './sheet/TextSlot.vue'
import { useTakingAway } from './taking'
import SavedState from './SavedState.vue'

/** The bar above a document: its name, how it stands, and what can be done with it. */
const props = defineProps<{
  kind: DocumentKind
  name: string
  label: string
  doc: ReturnType<typeof useDocument<unknown>>
}>()
const findings = computed(() => props.doc.view.value?.findings ?? [])
const blocked = computed(() => findings.value.some((f) => f.severity === 'stop'))
const releasing = ref(false)
const takeAway = useTakingAway(props.kind, () => props.name)
</script>

<template>
  <header>
    <h1 class="visually-hidden">{{ label }}</h1>
    <TextSlot
      :model-value="label"
      :label="'Name of the ' + kind"
      class="label"
      @update:model-value="doc.edit(put('/label', $event))"
    />
    <slot name="beside" />
    <SavedState :doc="doc" />
    <span v-if="findings.length" :class="blocked ? 'bad' : 'care'"
      >! {{ findings.length }} {{ findings.length === 1 ? 'finding' : 'findings' }}</span
    >
    <span v-else class="good">no findings</span>
    <span class="space" />
    <Button text size="small" label="Undo" title="Ctrl Z" @click="doc.undo()" />
    <Button text size="small" label="Redo" title="Ctrl Shift Z" @click="doc.redo()" />
    <Button text size="small" severity="danger" label="Remove…" @click="takeAway(label)" />
    <slot />
    <Button size="small" label="Release…" @click="releasing = true" />
    <ReleaseDialog v-model:open="releasing" />
  </header>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  gap: 0.6rem;
  padding: 0.5rem 0.8rem;
  border-bottom: 1px solid var(--line);
}
header > span,
header :deep(label) {
  white-space: nowrap;
}
header > :deep(button) {
  flex: none;
}
.label {
  font-weight: 650;
  font-size: 1.1rem;
  width: 13rem;
}
.space {
  flex: 1;
}
</style>
