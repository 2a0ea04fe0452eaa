<script setup lang="ts">
import { IconChevronLeft, IconChevronRight } from '@tabler/icons-vue'
import Button from 'primevue/button'
import { onMounted, ref, watch } from 'vue'
import { useDoing } from '@/api/doing'
import type { ObjectDef, RowView } from '@/api/types'
import { useRecordForm } from '@/surface/form/form'
import RecordForm from '@/surface/form/RecordForm.vue'
import { fieldViews } from './fieldviews'
import type { Records } from './records'
import { useRemoving } from './removing'

/** One stored record as people see it, with the way to the next; it can be edited. */
const props = defineProps<{ object: ObjectDef; records: Records; currency?: string; revision: number }>()
const emit = defineEmits<{ record: [id: number]; changed: [] }>()
const form = useRecordForm(props.records)
const rows = ref<RowView[]>([])
const total = ref(0)
const next = ref<string | undefined>('')
const at = ref(0)
const { failed, attempt } = useDoing()
const adding = ref(false)

const load = (gently = false) =>
  attempt(async () => {
    const page = await props.records.rows({})
    const all = page.counted ? page.total : (await props.records.count()).total
    if (gently && (form.dirty.value || adding.value)) return
    rows.value = page.rows
    total.value = all
    next.value = page.next
    await show(Math.min(at.value, Math.max(0, rows.value.length - 1)), gently)
  })

async function show(index: number, gently = false): Promise<void> {
  adding.value = false
  if (index >= rows.value.length && next.value) {
    const page = await props.records.rows({ after: next.value })
    rows.value = [...rows.value, ...page.rows]
    next.value = page.next
  }
  at.value = index
  const row = rows.value[index]
  if (!row) {
    form.view.value = null
    emit('record', 0)
    return
  }
  await form.load(row.id, gently)
  emit('record', row.id)
}

/** Goes to another record when somebody asks for it. */
async function go(index: number): Promise<void> {
  if (await form.mayGo()) await show(index)
}

async function back(): Promise<void> {
  if (await form.mayGo()) await load()
}

async function add(): Promise<void> {
  if (!(await form.mayGo())) return
  adding.value = true
  await form.load(0)
  emit('record', 0)
}

async function saved(): Promise<void> {
  emit('changed')
  const id = form.view.value?.id
  if (!id || rows.value.some((r) => r.id === id)) return
  adding.value = false
  if (form.dirty.value) return // something was entered meanwhile
  await load()
  await show(
    Math.max(
      0,
      rows.value.findIndex((r) => r.id === id),
    ),
  )
}

const remove = useRemoving(props.records, form, async () => {
  emit('changed')
  await load()
})

onMounted(() => load())
// The form follows the fields, unless something is being entered.
watch(
  () => props.revision,
  () => load(true),
)
</script>

<template>
  <section class="pane" aria-label="A record">
    <header>
      <strong>{{
        adding ? 'New ' + object.label.toLowerCase() : (form.view.value?.label ?? 'Records')
      }}</strong>
      <span class="space" />
      <template v-if="total">
        <button
          type="button"
          class="plain"
          aria-label="The record before"
          :disabled="at < 1"
          @click="go(at - 1)"
        >
          <IconChevronLeft :size="18" />
        </button>
        <span class="muted">{{ at + 1 }} of {{ total }}</span>
        <button
          type="button"
          class="plain"
          aria-label="The next record"
          :disabled="at >= total - 1"
          @click="go(at + 1)"
        >
          <IconChevronRight :size="18" />
        </button>
      </template>
      <Button v-if="!adding" text size="small" label="Add…" @click="add" />
      <Button v-else text size="small" label="Back" @click="back" />
    </header>
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="load()">Try again</button>
    </p>
    <p v-else-if="!total && !adding" class="muted">
      There are no {{ object.plural.toLowerCase() }} in trial yet. Add one, or bring a file in.
    </p>
    <RecordForm
      v-if="form.view.value"
      :fields="fieldViews(object)"
      :form="form"
      :find="records.options"
      stays
      :currency="currency"
      @saved="saved"
    >
      <Button
        v-if="!adding && form.view.value.may_remove && !form.dirty.value"
        text
        size="small"
        severity="danger"
        label="Remove"
        @click="remove"
      />
    </RecordForm>
  </section>
</template>

<style scoped>
.pane {
  border-left: 1px solid var(--line);
  padding: 1rem 1rem 0;
  overflow: auto;
  height: 100%;
  box-sizing: border-box;
}
header {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  margin-bottom: 0.7rem;
}
header strong {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.plain:disabled {
  color: var(--line);
  cursor: default;
}
</style>
