<script setup lang="ts">
import { ref, useId, watch } from 'vue'
import { useAsked } from '@/api/asked'
import type { Finding } from '@/api/types'
import { useBuild } from '../build'
import { usesOf } from './uses'

/** Where a field or an object is used, with a link to each place. */
const props = defineProps<{ ask: () => Promise<Finding[]>; stored: boolean }>()
const build = useBuild()
const id = useId()
// Contents are read again after every edit, and then what is used where may be otherwise.
const edits = ref(0)
watch(
  () => build.contents,
  () => edits.value++,
)
const { found: uses, failed } = useAsked(
  () => ['uses', id, edits.value],
  () => props.ask(),
  // What was just added is not there to be asked after.
  { when: () => props.stored, fresh: true, lasting: true },
)
</script>

<template>
  <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
  <p v-else-if="uses && !uses.length" class="muted">Used nowhere else.</p>
  <details v-else-if="uses">
    <summary>Used in {{ uses.length }} {{ uses.length === 1 ? 'place' : 'places' }}</summary>
    <ul>
      <li v-for="u in usesOf(build, uses)" :key="u.address + u.words">
        <RouterLink :to="u.address">{{ u.label }}</RouterLink> <span class="muted">{{ u.words }}</span>
      </li>
    </ul>
  </details>
</template>

<style scoped>
p,
ul {
  margin: 0;
}
ul {
  padding-left: 1.1rem;
}
</style>
