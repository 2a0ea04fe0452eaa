<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, titleOf } from '@/api/client'
import type { RecordView } from '@/api/types'
import DetailsPart from '@/surface/DetailsPart.vue'
import type { SurfaceSource } from '@/surface/source'

const props = defineProps<{ object: string; id: string }>()
const record = ref<RecordView | null>(null)
const failed = ref('')
const when = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' })
const did: Record<string, string> = { add: 'added', change: 'changed', remove: 'removed' }

const source: SurfaceSource = {
  rows: () => Promise.reject(new Error('no tables here')),
  options: () => Promise.resolve([]),
  recordAddress: (object, id) => `/use/record/${object}/${id}`,
}

watch(
  () => [props.object, props.id],
  async () => {
    failed.value = ''
    try {
      record.value = await api.get<RecordView>(`/use/records/${props.object}/${props.id}`)
    } catch (error) {
      record.value = null
      failed.value = titleOf(error)
    }
  },
  { immediate: true },
)
</script>

<template>
  <main id="main" class="record">
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <RouterLink to="/use">To the home page</RouterLink>
    </p>
    <template v-if="record">
      <p class="muted kind">{{ record.kind }}</p>
      <h1>{{ record.label }}</h1>
      <DetailsPart :details="record.fields" :source="source" />
      <section class="history">
        <h2>History</h2>
        <p v-if="!record.history.length" class="muted">Nothing has happened to this record yet.</p>
        <ol>
          <li v-for="(h, i) in record.history" :key="i">
            {{ when.format(new Date(h.at)) }} · {{ did[h.action] ?? h.action }} by
            {{ h.person || 'the program' }}<template v-if="h.through"> through “{{ h.through }}”</template>
          </li>
        </ol>
      </section>
    </template>
  </main>
</template>

<style scoped>
.record {
  max-width: 46rem;
  margin: 1.6rem auto;
  padding: 0 1.2rem;
}
.kind {
  margin: 0;
}
.history {
  margin-top: 2rem;
}
ol {
  padding-left: 1.1rem;
}
</style>
