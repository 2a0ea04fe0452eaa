<script setup lang="ts">
import Select from 'primevue/select'
import { computed, ref, shallowRef, watch } from 'vue'
import { given, seated } from '@/api/client'
import { useDoing } from '@/api/doing'
import { latest } from '@/api/latest'
import type { HistoryPage, PartView } from '@/api/types'
import { format } from '@/fields/fields'
import { moment } from '@/fields/zone'
import type { SurfaceSource } from './source'

/** What happened to a record: who changed what, when and through what, the latest first, read a part at a time. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ part: Pick<PartView, 'label' | 'history'>; source: SurfaceSource }>()
const did: Record<string, string> = { add: 'added', change: 'changed', remove: 'removed' }
const page = shallowRef<HistoryPage | null>(null)
/** The field whose changes are wanted, empty for all that happened. */
const field = ref('')
const { failed, busy, attempt } = useDoing()
const question = latest()
const fields = computed(() => [{ path: '', label: 'all that happened' }, ...(page.value?.fields ?? [])])

function read(more = false): Promise<boolean> {
  const isLatest = question.ask()
  const { object, record } = props.part.history!
  const before = more ? page.value?.entries.at(-1)?.id : undefined
  const query = { field: field.value || undefined, before: before === undefined ? undefined : String(before) }
  return attempt(async () => {
    const path = { object, id: String(record) }
    const found = await given(
      seated(props.source.base).GET('/records/{object}/{id}/history', {
        params: { path, query },
        signal: isLatest.signal,
      }),
    )
    if (!isLatest()) return
    page.value = more ? { ...found, entries: [...page.value!.entries, ...found.entries] } : found
  })
}

watch(
  () => props.part.history,
  (is, was) => {
    if (is?.object !== was?.object) field.value = ''
    if (is?.record !== was?.record || is?.object !== was?.object) page.value = null
    if (is?.record) void read()
  },
  { immediate: true },
)
</script>

<template>
  <section class="history">
    <div class="head">
      <h2>{{ part.label || 'History' }}</h2>
      <Select
        v-if="page && (page.entries.length > 1 || field)"
        v-model="field"
        :options="fields"
        option-label="label"
        option-value="path"
        size="small"
        aria-label="What is shown of the history"
        @update:model-value="read()"
      />
    </div>
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="read()">Try again</button>
    </p>
    <p v-if="!part.history?.record" class="muted">No record is chosen.</p>
    <p v-else-if="page && !page.entries.length" class="muted">
      {{ field ? 'It was never changed.' : 'Nothing has happened to this record yet.' }}
    </p>
    <ol v-if="page && part.history?.record">
      <li v-for="h in page.entries" :key="h.id">
        {{ moment(h.at) }} · {{ did[h.action] ?? h.action }} by {{ h.person || 'the program'
        }}<template v-if="h.through"> through “{{ h.through }}”</template>
        <div v-for="c in h.changes" :key="c.heading.path + c.heading.label" class="change">
          <span class="muted">{{ c.heading.label }}</span>
          <del v-if="c.before !== null">{{ format(c.heading, c.before) }}</del><span v-else class="muted"
            >empty</span
          >
          <span aria-hidden="true">→</span><span class="visually-hidden">became</span>
          <ins v-if="c.after !== null">{{ format(c.heading, c.after) }}</ins><span v-else class="muted"
            >empty</span
          >
        </div>
      </li>
    </ol>
    <button v-if="page?.more" type="button" class="plain link" :disabled="busy" @click="read(true)">
      Show what was before
    </button>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.2rem 1rem;
}
ol {
  padding-left: 1.1rem;
  margin: 0.6rem 0;
}
.change {
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.5rem;
}
.change > .muted:first-child {
  min-width: 8rem;
}
ins {
  text-decoration: none;
}
</style>
