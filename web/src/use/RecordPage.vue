<script setup lang="ts">
import Button from 'primevue/button'
import { useConfirm } from 'primevue/useconfirm'
import { useToast } from 'primevue/usetoast'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAsked } from '@/api/asked'
import { api, counts, given, requestKey } from '@/api/client'
import { useDoing } from '@/api/doing'
import type { PartView, RelatedList } from '@/api/types'
import DetailsPart from '@/surface/DetailsPart.vue'
import FormPart from '@/surface/FormPart.vue'
import HistoryPart from '@/surface/HistoryPart.vue'
import { mayLeave, useUnsavedScope } from '@/surface/unsaved'
import { nothing } from '@/surface/selection'
import type { SurfaceSource } from '@/surface/source'
import { provideRoom } from '@/surface/table/room'
import TablePart from '@/surface/TablePart.vue'
import PagePage from './PagePage.vue'

const router = useRouter()
const route = useRoute()
const confirm = useConfirm()
const toast = useToast()
const props = defineProps<{ object: string; id: string }>()

const here = computed(() => ({ object: props.object, id: props.id }))

const source: SurfaceSource = {
  base: '/use',
  at: (part) => {
    if (part === 'form') return { record: { object: props.object, record: Number(props.id) } }
    const [from, field] = part.split('.')
    return { related: { object: props.object, record: Number(props.id), from, field } }
  },
  options: () => Promise.resolve([]),
  recordAddress: (object, id) => `/use/record/${object}/${id}`,
}

const {
  found: record,
  failed: notFound,
  again,
} = useAsked(
  () => ['record', props.object, props.id],
  (signal) => given(api.GET('/use/records/{object}/{id}', { params: { path: here.value }, signal })),
)
const {
  found: related,
  failed: notRelated,
  again: relatedAgain,
} = useAsked(
  () => ['related', props.object, props.id],
  (signal) => given(api.GET('/use/records/{object}/{id}/related', { params: { path: here.value }, signal })),
  { when: () => !!record.value && !record.value.page },
)
/** What the page of such records is handed. */
const handed = computed(() => ({ record: { id: Number(props.id) } }))
const past = computed(() => record.value && { object: record.value.object, record: record.value.id })
const { failed: notDone, attempt } = useDoing()
const failed = computed(() => notFound.value || notRelated.value)
const main = ref<HTMLElement | null>(null)

/** Whether it is being changed stands in the address, so that the way back leads out of it. */
const editing = computed(() => route.query.edit !== undefined && !!record.value?.form)
const unsaved = useUnsavedScope()

async function edit(): Promise<void> {
  await router.push({ query: { ...route.query, edit: 'yes' } })
}

async function leave(asks = true): Promise<void> {
  if (!asks || (await mayLeave(unsaved())))
    await router.replace({ query: { ...route.query, edit: undefined } })
}

async function saved(): Promise<void> {
  await Promise.all([again(), relatedAgain()])
  await leave(false)
}

// Whoever leaves the form has the keyboard where it was opened.
watch(editing, async (on) => {
  await nextTick()
  if (!on) main.value?.querySelector<HTMLElement>('.does button')?.focus()
})

function remove(): void {
  const label = record.value?.label ?? ''
  confirm.require({
    defaultFocus: 'reject',
    header: `Remove ${label}?`,
    message: 'It is taken out for everybody. Its history stays.',
    acceptLabel: 'Remove',
    rejectLabel: 'Keep it',
    rejectProps: { outlined: true },
    accept: () =>
      attempt(async () => {
        await given(
          api.DELETE('/use/records/{object}/{id}', { params: { path: here.value }, ...counts(requestKey()) }),
        )
        toast.add({ severity: 'success', summary: `${label} was removed.`, life: 4000 })
        if (window.history.state?.back) router.back()
        else await router.push('/use')
      }),
  })
}
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
  <main id="main" ref="main" class="record" :class="{ made: record?.page && !editing }">
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <RouterLink to="/use">To the home page</RouterLink>
    </p>
    <template v-if="record">
      <p v-show="!alone" class="muted kind">{{ record.kind }}</p>
      <div class="head">
        <h1>{{ record.label }}</h1>
        <span v-if="!editing" v-show="!alone" class="does">
          <Button v-if="record.form" outlined size="small" label="Change" @click="edit" />
          <Button
            v-if="record.may_remove"
            text
            size="small"
            severity="danger"
            label="Remove…"
            @click="remove"
          />
        </span>
      </div>
      <p v-if="notDone" class="bad" role="alert">{{ notDone }}</p>
      <FormPart
        v-if="editing"
        v-show="!alone"
        :part="{ key: 'form', kind: 'form', form: record.form }"
        :source="source"
        @written="saved"
      >
        <Button text size="small" severity="secondary" label="Cancel" @click="leave()" />
      </FormPart>
      <PagePage v-else-if="record.page" :name="record.page" :taken="handed" bare />
      <template v-else>
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
        <HistoryPart v-if="!alone" class="past" :part="{ history: past }" :source="source" />
      </template>
    </template>
  </main>
</template>

<style scoped>
.record {
  max-width: 52rem;
  margin: 1.6rem auto;
  padding: 0 1.2rem;
}
.made {
  max-width: 76rem;
}
.kind {
  margin: 0;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 1rem;
}
.head h1 {
  flex: 1;
}
.does {
  display: flex;
  gap: 0.4rem;
}
.related {
  margin-top: 1.8rem;
}
.past {
  margin-top: 2rem;
}
</style>
