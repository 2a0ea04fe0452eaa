<script setup lang="ts">
import { ref, watch } from 'vue'
import { titleOf } from '@/api/client'
import type { Finding } from '@/api/types'
import { useBuild } from '../build'
import { usesOf } from './uses'

/** Where a field or an object is used, with a link to each place. */
const props = defineProps<{ ask: () => Promise<Finding[]>; stored: boolean }>()
const build = useBuild()
const uses = ref<Finding[] | null>(null)
const failed = ref('')

watch(
  () => [props.stored, build.contents] as const,
  async ([stored]) => {
    if (!stored) return // what was just added is not there to be asked after
    failed.value = ''
    try {
      uses.value = await props.ask()
    } catch (error) {
      uses.value = null
      failed.value = titleOf(error)
    }
  },
  { immediate: true },
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
