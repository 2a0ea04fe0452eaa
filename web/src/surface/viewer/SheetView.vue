<script setup lang="ts">
import Papa from 'papaparse'
import { computed } from 'vue'

/** Comma-separated values as a table. */
const props = defineProps<{ text: string }>()
const most = 1000
const read = computed(
  () => Papa.parse<string[]>(props.text, { skipEmptyLines: true, preview: most + 2 }).data,
)
const head = computed(() => read.value[0] ?? [])
const rows = computed(() => read.value.slice(1, most + 1))
</script>

<template>
  <div class="room" tabindex="0" aria-label="Rows">
    <table>
      <thead>
        <tr>
          <th v-for="(h, i) in head" :key="i" scope="col">{{ h }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, i) in rows" :key="i">
          <td v-for="(cell, n) in row" :key="n">{{ cell }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-if="read.length > most + 1" class="care">
    These are the first {{ most.toLocaleString() }} rows. Download the file for all.
  </p>
</template>

<style scoped>
.room {
  overflow: auto;
  max-height: 70vh;
}
th,
td {
  padding: 0.25rem 0.9rem 0.25rem 0;
  text-align: left;
  white-space: nowrap;
  border-bottom: 1px solid var(--line);
}
</style>
