<script setup lang="ts">
import Button from 'primevue/button'
import { useConfirm } from 'primevue/useconfirm'
import { useToast } from 'primevue/usetoast'
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, given, titleOf } from '@/api/client'
import type { FieldDef, Name, ObjectDef, ProfileView, Rule, Renamed } from '@/api/types'
import { useBuild } from '../build'
import { provideKnown } from '../conditions/context'
import { changes, drop, moved, put, useDocument } from '../document'
import ReadFailed from '../ReadFailed.vue'
import ObstacleList from '../ObstacleList.vue'
import { provideSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import TextSlot from '../sheet/TextSlot.vue'
import FieldEditor from './FieldEditor.vue'
import FieldList from './FieldList.vue'
import NewSurface from '../NewSurface.vue'
import LabelSlot from './LabelSlot.vue'
import NewField from './NewField.vue'
import RecordPane from './RecordPane.vue'
import { useRecords } from './records'
import RulesEditor from './RulesEditor.vue'
import { usesOf, usesOfDocument, usesOfField } from './uses'
import UsesList from './UsesList.vue'
import { useTakingAway } from '../taking'
import { useUndoKeys } from '../undo'
import { moment } from '@/fields/zone'
import SavedState from '../SavedState.vue'

const props = defineProps<{ name: string }>()
const build = useBuild()
const toast = useToast()
const confirm = useConfirm()
const router = useRouter()
const takeAway = useTakingAway('object', () => props.name)
const doc = useDocument<ObjectDef>('object', () => props.name)
const object = doc.body
// An address from before the object had another key goes on as today's.
watch(
  () => doc.view.value?.key,
  (key) => key && key !== props.name && void router.replace('/build/object/' + key),
)
const records = useRecords(props.name)
const open = ref('')
const makes = ref(false)
const record = ref(0)
const recordLabel = ref('')
const profile = ref<ProfileView | null>(null)
const profileFailed = ref('')
const findings = computed(() => doc.view.value?.findings ?? [])
const ruleFindings = computed(() => findings.value.filter((f) => f.pointer.startsWith('/rules')))
const referrers = computed(() => build.referrers(props.name))
const currency = computed(() => build.contents?.currency ?? 'EUR')

/** What a candidate rule may know: the record being edited, the person, the day. */
const names = computed<Name[]>(() => [
  {
    key: 'edited',
    label: `The ${object.value?.label.toLowerCase() ?? 'record'} being edited`,
    type: { kind: 'record', object: props.name },
  },
  { key: 'today', label: 'Today', type: { kind: 'date' } },
  { key: 'now', label: 'Now', type: { kind: 'instant' } },
])
provideKnown({ names: () => names.value, samples: ref({}) })
provideSheet({
  edit: doc.edit,
  rename: doc.rename,
  removable: doc.removable,
  body: () => doc.body.value,
  findings,
  steps: ref([]),
})

let looking: ReturnType<typeof setTimeout> | undefined

async function look(fresh = false): Promise<void> {
  clearTimeout(looking)
  profileFailed.value = ''
  try {
    profile.value = await records.profile(fresh)
    if (profile.value.working) looking = setTimeout(look, 1000)
  } catch (error) {
    profileFailed.value = titleOf(error)
  }
}

onMounted(() => {
  void doc.load()
  void look()
})
onUnmounted(() => clearTimeout(looking))
watch(
  () => doc.view.value?.revision,
  (is, was) => {
    if (was !== undefined && is !== was) void look()
  },
)

// Undoing can give the object its former key back.
watch(
  () => doc.view.value?.key,
  (is) => is && is !== props.name && router.replace('/build/object/' + is),
)

// Whoever changed a field far down is led to the reason why it was not.
const hindrance = ref<HTMLElement | null>(null)
watch(hindrance, (is) => is?.parentElement?.scrollTo({ top: 0 }), { flush: 'post' })

function setField(index: number, next: FieldDef): void {
  const ops = changes(`/fields/${index}`, object.value!.fields[index], next)
  if (ops.length) void doc.edit(...ops)
}

function addField(field: FieldDef): void {
  open.value = field.key
  void doc.edit(put('/fields/-', field))
}

function move(from: number, to: number): void {
  void doc.edit(moved('/fields', from, to))
}

/** A new key is followed by everything that names the field. */
async function rename(field: string, to: string): Promise<void> {
  const params = { path: { object: props.name, field } }
  const ask = () => api.POST('/build/fields/{object}/{field}/key', { params, body: { key: to.trim() } })
  if (await rekey(() => given(ask()), field, to)) open.value = to.trim()
  await Promise.all([doc.load(), build.load()])
}

async function renameChoice(field: string, choice: string, to: string): Promise<void> {
  const params = { path: { object: props.name, field, choice } }
  const address = '/build/fields/{object}/{field}/choices/{choice}/key'
  await rekey(() => given(api.POST(address, { params, body: { key: to.trim() } })), choice, to)
  await Promise.all([doc.load(), build.load()])
}

async function renameObject(to: string): Promise<void> {
  const path = { object: props.name }
  const ask = () => api.POST('/build/objects/{object}/key', { params: { path }, body: { key: to.trim() } })
  if (await rekey(() => given(ask()), props.name, to)) {
    await build.load()
    await router.replace('/build/object/' + to.trim())
  } else await doc.load()
}

async function rekey(ask: () => Promise<Renamed>, from: string, to: string): Promise<boolean> {
  try {
    const done = await ask()
    const others = done.documents.length - 1
    toast.add({
      severity: 'info',
      summary: `${from} is ${to.trim()} now`,
      detail: others
        ? `${others} other ${others === 1 ? 'document' : 'documents'} followed.`
        : 'Nothing else names it.',
      life: 6000,
    })
    return true
  } catch (error) {
    toast.add({ severity: 'error', summary: 'Not renamed', detail: titleOf(error), life: 8000 })
    return false
  }
}

async function removeField(index: number): Promise<void> {
  const field = object.value!.fields[index]
  const filled = profile.value?.fields.find((p) => p.field === field.key)?.filled ?? 0
  let breaks: string[]
  try {
    const uses = await usesOfField(props.name, field.key)
    breaks = usesOf(build, uses).map((u) => u.label + (u.words ? ` (${u.words})` : ''))
  } catch (error) {
    toast.add({ severity: 'error', summary: 'Not removed', detail: titleOf(error), life: 8000 })
    return
  }
  const broken = breaks.length ? `This would break: ${breaks.join('; ')}.` : 'Nothing else uses it.'
  confirm.require({
    defaultFocus: 'reject',
    header: `Remove the field ${field.label}?`,
    message: `${broken} ${filled} records have a value in it; the values are hidden, not lost: undo brings them back.`,
    acceptLabel: 'Remove',
    rejectLabel: 'Keep it',
    rejectProps: { outlined: true },
    accept: async () => {
      open.value = ''
      if (await doc.edit(drop(`/fields/${index}`)))
        toast.add({
          severity: 'info',
          summary: `${field.label} was removed`,
          detail: 'Ctrl Z brings it back.',
          life: 5000,
        })
    },
  })
}

function setRules(rules: Rule[]): void {
  void doc.edit(rules.length ? put('/rules', rules) : drop('/rules'))
}

async function shown(id: number): Promise<void> {
  record.value = id
  recordLabel.value = id ? ((await records.form(id)).label ?? '') : ''
}

const when = (at: string | null | undefined) => (at ? moment(at) : '')

useUndoKeys(doc)
</script>

<template>
  <main v-if="object" class="object">
    <header>
      <h1 class="visually-hidden">{{ object.label }}</h1>
      <TextSlot
        :model-value="object.label"
        label="Name of one"
        class="label"
        @update:model-value="doc.edit(put('/label', $event))"
      />
      <TextSlot
        :model-value="object.plural"
        label="Name of many"
        @update:model-value="doc.edit(put('/plural', $event))"
      />
      <span class="muted">known as</span>
      <TextSlot
        :model-value="object.key"
        label="Key of the object"
        class="key"
        @update:model-value="renameObject"
      />
      <SavedState :doc="doc" />
      <span v-if="findings.length" class="care"
        >! {{ findings.length }} {{ findings.length === 1 ? 'finding' : 'findings' }}</span
      >
      <span class="space" />
      <RouterLink :to="`/build/object/${name}/records`">All records</RouterLink>
      <Button text size="small" label="Make a page…" @click="makes = true" />
      <Button text size="small" label="Undo" title="Ctrl Z" @click="doc.undo()" />
      <Button text size="small" label="Redo" title="Ctrl Shift Z" @click="doc.redo()" />
      <Button text size="small" severity="danger" label="Remove…" @click="takeAway(object.label)" />
    </header>
    <NewSurface v-if="makes" v-model:open="makes" kind="page" :object="name" />
    <div class="fields">
      <div v-if="doc.obstacles.value.length" ref="hindrance">
        <ObstacleList :obstacles="doc.obstacles.value" mendable @mend="doc.mend" />
        <p>Nothing was changed. Mend the records, one by one or together; then it can be.</p>
      </div>
      <FindingNote
        v-for="f in findings.filter((f) => !f.pointer.startsWith('/rules'))"
        :key="f.pointer + f.text"
        :finding="f"
      />
      <FieldList
        :object="object"
        :profile="profile"
        :open="open"
        :names="names"
        @open="open = open === $event ? '' : $event"
        @move="move"
      >
        <template #default="{ field, index }">
          <FieldEditor
            :key="field.key"
            :object="name"
            :field="field"
            :records="records"
            :record="record"
            :record-label="recordLabel"
            :names="names"
            :stands="field.key === object.label_field"
            :currency="currency"
            :stored="!doc.waiting.value"
            @change="setField(index, $event)"
            @rename="rename(field.key, $event)"
            @remove="removeField(index)"
            @rename-choice="(from, to) => renameChoice(field.key, from, to)"
            @stand="doc.edit(put('/label_field', field.key))"
          />
        </template>
      </FieldList>
      <NewField :fields="object.fields" @add="addField" />
      <p class="muted" aria-live="polite">
        <template v-if="profileFailed">{{ profileFailed }}</template>
        <template v-else-if="profile?.working">
          Looking at {{ profile.records }} records: field {{ profile.done }} of {{ profile.of }} …
        </template>
        <template v-else-if="profile">
          {{ profile.records }} records in trial, looked at {{ when(profile.at) }}.
          <button type="button" class="plain link" @click="look(true)">Look again</button>
        </template>
      </p>
      <h2>What a record is called</h2>
      <LabelSlot
        :object="object"
        :records="records"
        :record="record"
        :record-label="recordLabel"
        @edit="doc.edit"
      />
      <h2>What must hold</h2>
      <RulesEditor
        :model-value="object.rules ?? []"
        :records="records"
        :record="record"
        :record-label="recordLabel"
        :findings="ruleFindings"
        @update:model-value="setRules"
      />
      <template v-if="referrers.length">
        <h2>Refers to this</h2>
        <ul>
          <li v-for="r in referrers" :key="r.object.key + r.field.key">
            <RouterLink :to="'/build/object/' + r.object.key">{{ r.object.label }}</RouterLink> ›
            {{ r.field.label }}
          </li>
        </ul>
      </template>
      <h2>Where it is used</h2>
      <UsesList :key="name" :stored="!doc.waiting.value" :ask="() => usesOfDocument('object', name)" />
    </div>
    <RecordPane
      :object="object"
      :records="records"
      :currency="currency"
      :revision="doc.view.value?.revision ?? 0"
      @record="shown"
      @changed="look()"
    />
  </main>
  <ReadFailed v-else-if="doc.failed.value" :words="doc.failed.value" @again="doc.load()" />
</template>

<style scoped>
.object {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 23rem;
  grid-template-rows: auto minmax(0, 1fr);
  height: 100%;
}
header {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 0.7rem;
  padding: 0.5rem 0.8rem;
  border-bottom: 1px solid var(--line);
}
.label :deep(input),
.label {
  font-weight: 650;
  font-size: 1.1rem;
}
.key {
  width: 9rem;
  font-family: ui-monospace, monospace;
}
.fields {
  overflow: auto;
  padding: 0.7rem 0.9rem 3rem;
}
h2 {
  margin: 1.5rem 0 0.5rem;
}
ul {
  padding-left: 1.1rem;
  margin: 0;
}
.space {
  flex: 1;
}
</style>
