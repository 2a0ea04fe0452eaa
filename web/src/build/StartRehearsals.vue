<script setup lang="ts">
import Button from 'primevue/button'
import { computed, shallowRef } from 'vue'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { ExampleRun } from '@/api/types'

/** Whether the kept rehearsals of all walkthroughs hold, tried on the draft just now. */
const tried = shallowRef<ExampleRun[] | null>(null)
const { failed, busy, attempt } = useDoing()
const holds = (e: ExampleRun) => !e.failed && !e.blocked && !e.differences.length
const bad = computed(() => (tried.value ?? []).filter((e) => !holds(e)))

const trial = () => attempt(async () => void (tried.value = await given(api.GET('/build/examples'))))
</script>

<template>
  <p>
    <Button
      text
      size="small"
      :label="busy ? 'Trying …' : 'Try the kept rehearsals'"
      :disabled="busy"
      @click="trial"
    />
    <span v-if="failed" class="bad" role="alert">{{ failed }}</span>
    <span v-else-if="tried" role="status" :class="bad.length ? 'bad' : 'good'">
      {{ tried.length - bad.length }} of {{ tried.length }} hold.
    </span>
  </p>
  <ul v-if="bad.length">
    <li v-for="e in bad" :key="e.walkthrough + e.key">
      <RouterLink :to="`/build/walkthrough/${e.walkthrough}`">“{{ e.name }}” of {{ e.label }}</RouterLink>
      <span class="muted">
        {{ e.failed || (e.blocked ? 'findings keep it from running' : 'comes out otherwise') }}
      </span>
    </li>
  </ul>
</template>

<style scoped>
p {
  margin: 0.4rem 0 0;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
</style>
