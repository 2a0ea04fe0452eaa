<script setup lang="ts">
import Button from 'primevue/button'
import { computed, onMounted, ref, useId, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useAsked } from '@/api/asked'
import type { PartView } from '@/api/types'
import { nothing } from '@/surface/selection'
import type { SurfaceSource } from '@/surface/source'
import TablePart from '@/surface/TablePart.vue'
import { useBuild } from '../build'
import WhyPanel from '../people/WhyPanel.vue'
import { useRecordForm } from '@/surface/form/form'
import RecordForm from '@/surface/form/RecordForm.vue'
import { fieldViews } from './fieldviews'
import { useRecords } from './records'
import { useRemoving } from './removing'

/** All records of an object in trial: search, look, add, change, remove. */
const props = defineProps<{ name: string }>()
const build = useBuild()
const route = useRoute()
const object = computed(() => build.object(props.name))
const records = useRecords(props.name)
const form = useRecordForm(records)
const id = useId()
const {
  found: view,
  failed,
  again: load,
} = useAsked(
  () => ['records', props.name, id],
  () => records.rows({}),
  { fresh: true },
)
const chosen = ref(nothing())

const source: SurfaceSource = {
  base: '/build/spaces/trial',
  at: () => ({ object: props.name }),
  options: () => Promise.resolve([]),
  recordAddress: () => null,
}
const part = computed<PartView | null>(
  () =>
    (view.value && {
      key: 'records',
      kind: 'table',
      label: object.value?.plural,
      table: {
        object: props.name,
        select: 'one',
        rows: view.value,
        chosen: [],
        keyword: ['in all texts'],
        nothing: 'There are no records in trial yet.',
      },
    }) ??
    null,
)

onMounted(async () => {
  const asked = Number(route.query.record)
  if (asked) await form.load(asked)
})
watch(chosen, async ({ rows }, before) => {
  const id = rows[0]?.id
  if (!id || id === form.view.value?.id) return
  if (await form.mayGo()) await form.load(id)
  if (form.dirty.value) chosen.value = before
})

async function close(): Promise<void> {
  if (await form.mayGo()) form.view.value = null
}

async function add(): Promise<void> {
  if (!(await form.mayGo())) return
  chosen.value = nothing()
  await form.load(0)
}

const remove = useRemoving(records, form, async () => {
  form.view.value = null
  await load()
})
</script>

<template>
  <main v-if="object" class="records" :class="{ beside: form.view.value }">
    <section>
      <p class="row">
        <RouterLink :to="'/build/object/' + name">{{ object.label }}</RouterLink> › records in trial
        <span class="space" />
        <Button v-if="view" outlined size="small" :label="'Add ' + build.one(object.key)" @click="add" />
      </p>
      <p v-if="failed" class="bad" role="alert">
        {{ failed }} <button type="button" class="plain link" @click="load">Try again</button>
      </p>
      <TablePart v-if="part" v-model="chosen" :part="part" :source="source" class="table" />
    </section>
    <aside v-if="form.view.value" :aria-label="form.view.value.label || 'A new record'">
      <h2>{{ form.view.value.id ? form.view.value.label : 'New ' + object.label.toLowerCase() }}</h2>
      <RecordForm
        :fields="fieldViews(object)"
        :form="form"
        :find="records.options"
        stays
        :currency="build.contents?.currency"
        @saved="load"
      >
        <Button
          v-if="form.view.value.id && form.view.value.may_remove && !form.dirty.value"
          text
          size="small"
          severity="danger"
          label="Remove"
          @click="remove"
        />
        <Button text size="small" label="Close" @click="close" />
      </RecordForm>
      <WhyPanel v-if="form.view.value.id" :object="name" :record="form.view.value.id" />
    </aside>
  </main>
  <p v-else class="records">There is no object “{{ name }}”.</p>
</template>

<style scoped>
.records {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  height: 100%;
}
.beside {
  grid-template-columns: minmax(0, 1fr) 23rem;
}
section {
  padding: 0.8rem 1rem;
  overflow: auto;
  min-width: 0;
}
aside {
  border-left: 1px solid var(--line);
  padding: 1rem 1rem 0;
  overflow: auto;
}
aside h2 {
  margin-bottom: 0.8rem;
}
.space {
  flex: 1;
}
.table :deep(.scroll) {
  max-height: calc(100vh - 15rem);
}
</style>
