<script setup lang="ts">
import { computed, watch } from 'vue'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { useRouter } from 'vue-router'
import type { PartView, RelatedList } from '@/api/types'
import DetailsPart from '@/surface/DetailsPart.vue'
import { nothing } from '@/surface/selection'
import type { SurfaceSource } from '@/surface/source'
import { provideRoom } from '@/surface/table/room'
import TablePart from '@/surface/TablePart.vue'
import { format } from '@/fields/fields'
import { moment } from '@/fields/zone'

const router = useRouter()
const props = defineProps<{ object: string; id: string }>()
const did: Record<string, string> = { add: 'added', change: 'changed', remove: 'removed' }

const here = computed(() => ({ object: props.object, id: props.id }))

const source: SurfaceSource = {
  base: '/use',
  at: (part) => {
    const [from, field] = part.split('.')
    return { related: { object: props.object, record: Number(props.id), from, field } }
  },
  options: () => Promise.resolve([]),
  recordAddress: (object, id) => `/use/record/${object}/${id}`,
}

const { found: record, failed: notFound } = useAsked(
  () => ['record', props.object, props.id],
  (signal) => given(api.GET('/use/records/{object}/{id}', { params: { path: here.value }, signal })),
)
const { found: related, failed: notRelated } = useAsked(
  () => ['related', props.object, props.id],
  (signal) => given(api.GET('/use/records/{object}/{id}/related', { params: { path: here.value }, signal })),
  { when: () => !!record.value },
)
const failed = computed(() => notFound.value || notRelated.value)
// An address from before the object had another key goes on as today's.
watch(record, (found) => {
  if (found && found.object !== props.object) void router.replace(`/use/record/${found.object}/${found.id}`)
})

const lists = computed(() => (related.value ?? []).map(listOf))
// The page scrolls, so its lists do not, but for one that is shown alone for a while.
const { alone } = provideRoom(computed(() => true))
watch(lists, () => (alone.value = ''))

/** A list from the other side of a reference, as a table that is only read. */
function listOf(r: RelatedList): PartView {
  return {
    key: `${r.from}.${r.field}`,
    kind: 'table',
    label: r.label,
    table: {
      object: r.from,
      rows: r.rows,
      select: 'none',
      chosen: [],
      keyword: r.rows.total > 10 ? ['in all texts'] : undefined,
    },
  }
}
</script>

<template>
  <main id="main" class="record">
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <RouterLink to="/use">To the home page</RouterLink>
    </p>
    <template v-if="record">
      <p v-show="!alone" class="muted kind">{{ record.kind }}</p>
      <h1>{{ record.label }}</h1>
      <DetailsPart v-if="!alone" :part="{ details: record.fields }" :source="source" />
      <TablePart
        v-for="part in lists"
        v-show="!alone || alone === part.key"
        :key="part.key"
        :model-value="nothing()"
        :part="part"
        :source="source"
        class="related"
      />
      <section v-show="!alone" class="history">
        <h2>History</h2>
        <p v-if="!record.history.length" class="muted">Nothing has happened to this record yet.</p>
        <ol>
          <li v-for="(h, i) in record.history" :key="i">
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
      </section>
    </template>
  </main>
</template>

<style scoped>
.record {
  max-width: 52rem;
  margin: 1.6rem auto;
  padding: 0 1.2rem;
}
.kind {
  margin: 0;
}
.related {
  margin-top: 1.8rem;
}
.history {
  margin-top: 2rem;
}
ol {
  padding-left: 1.1rem;
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
