<script setup lang="ts">
import Button from 'primevue/button'
import { onMounted, ref } from 'vue'
import { api, given } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { Audit } from '@/api/types'
import { moment } from '@/fields/zone'

/** Who signed in, and what was done to accounts, rights and releases, the latest first. */
const entries = ref<Audit['entries']>([])
const more = ref(false)
const { failed, attempt } = useDoing()
const page = 100

const load = () =>
  attempt(async () => {
    const last = entries.value.at(-1)
    const next = await given(api.GET('/build/audit', { params: { query: last ? { before: last.at } : {} } }))
    entries.value.push(...next.entries)
    more.value = next.entries.length === page
  })
onMounted(load)
</script>

<template>
  <table>
    <thead>
      <tr>
        <th>When</th>
        <th>Who</th>
        <th>What</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(e, i) in entries" :key="i">
        <td class="when">{{ moment(e.at) }}</td>
        <td>{{ e.who }}</td>
        <td>
          {{ e.what }}
          <div v-for="d in e.details" :key="d" class="muted">{{ d }}</div>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="failed" class="bad" role="alert">
    {{ failed }} <button type="button" class="plain link" @click="load">Try again</button>
  </p>
  <Button v-if="more" outlined size="small" label="Earlier ones" @click="load" />
</template>

<style scoped>
table {
  margin: 0.8rem 0;
}
th,
td {
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
  padding: 0.3rem 1.6rem 0.3rem 0;
}
.when {
  white-space: nowrap;
}
th {
  color: var(--muted);
  font-weight: 600;
}
</style>
