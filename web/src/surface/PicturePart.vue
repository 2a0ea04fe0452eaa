<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useFiles } from '@/fields/files'
import type { PartProps } from './parts'

/** A picture of a record, as wide as its place at most. */
defineOptions({ inheritAttrs: false })
const props = defineProps<PartProps>()
const files = useFiles()
const file = computed(() => props.part.picture?.file)
const failed = ref(false)
watch(file, () => (failed.value = false))
</script>

<template>
  <figure>
    <p v-if="!file" class="muted">
      {{ part.picture?.chosen ? 'There is no picture.' : 'Nothing is chosen yet.' }}
    </p>
    <p v-else-if="failed" class="bad">The picture {{ file.label }} cannot be shown.</p>
    <img v-else :src="files.address(file.id)" :alt="part.label || file.label" @error="failed = true" />
    <figcaption v-if="part.label && file">{{ part.label }}</figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
img {
  display: block;
  max-width: 100%;
  max-height: 26rem;
  border: 1px solid var(--line);
  border-radius: 4px;
}
figcaption {
  margin-top: 0.3rem;
  color: var(--muted);
}
</style>
