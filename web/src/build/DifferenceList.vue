<script setup lang="ts">
import type { ExampleRun } from '@/api/types'

/** What came of a kept rehearsal otherwise than expected, side by side. */
defineProps<{ run: ExampleRun }>()
const emit = defineEmits<{ right: [] }>()
</script>

<template>
  <p v-if="run.failed" class="bad">It could not be run: {{ run.failed }}.</p>
  <table v-else>
    <thead>
      <tr>
        <th scope="col"><span class="visually-hidden">What</span></th>
        <th scope="col">expected</th>
        <th scope="col">now</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="d in run.differences" :key="d.what">
        <th scope="row">{{ d.what }}</th>
        <td>{{ d.expected || 'nothing' }}</td>
        <td class="bad">{{ d.now || 'nothing' }}</td>
      </tr>
    </tbody>
  </table>
  <button v-if="!run.failed" type="button" class="plain link" @click="emit('right')">
    What comes of it now is right
  </button>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
  margin: 0.2rem 0;
}
th,
td {
  text-align: left;
  vertical-align: top;
  font-weight: normal;
  padding: 0.15rem 0.6rem 0.15rem 0;
  border-bottom: 1px solid var(--line);
}
thead th {
  color: var(--muted);
}
</style>
