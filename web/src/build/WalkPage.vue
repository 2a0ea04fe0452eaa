<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import Select from 'primevue/select'
import { useToast } from 'primevue/usetoast'
import { computed, onMounted, watch } from 'vue'
import type { ShippedView, Walkthrough } from '@/api/types'
import { useBuild } from './build'
import { useDocument } from './document'
import ReadFailed from './ReadFailed.vue'
import AboutDocument from './AboutDocument.vue'
import DocumentBar from './DocumentBar.vue'
import { useRehearsal } from './rehearsal'
import RehearsalPane from './RehearsalPane.vue'
import { namesAt, provideKnown } from './conditions/context'
import { provideSheet } from './sheet/context'
import { sheetRows } from './sheet/rows'
import FindingNote from './sheet/FindingNote.vue'
import GivesEditor from './sheet/GivesEditor.vue'
import TakesEditor from './sheet/TakesEditor.vue'
import WalkSheet from './sheet/WalkSheet.vue'
import { shipping } from './page/edits'
import { useInUse } from './inuse'
import { useUndoKeys } from './undo'

const props = defineProps<{ name: string }>()
const build = useBuild()
const toast = useToast()
const doc = useDocument<Walkthrough>('walkthrough', () => props.name)
const walk = doc.body
const findings = computed(() => doc.view.value?.findings ?? [])
const general = computed(() => findings.value.filter((f) => !f.step))
const blocked = computed(() => findings.value.some((f) => f.severity === 'stop'))

const people = computed(() =>
  (build.contents?.people ?? []).map((p) => ({
    id: p.id,
    label: `${p.name} (${(p.role_labels ?? []).join(', ').toLowerCase()})`,
    roles: p.roles ?? [],
  })),
)
const chosen = useStorage(`plainpath.as.${props.name}`, 0)
const as = computed({
  get: () => {
    if (people.value.some((p) => p.id === chosen.value)) return chosen.value
    const may = people.value.find((p) => p.roles.some((r) => walk.value?.roles?.includes(r)))
    return may?.id ?? people.value[0]?.id ?? 0
  },
  set: (id: number) => (chosen.value = id),
})
const rehearsal = useRehearsal(
  props.name,
  as,
  () => sheetRows(walk.value?.steps ?? []).flatMap((r) => (r.step ? [r.step] : [])),
  useInUse(),
)

provideKnown({
  names: (place) => namesAt(place, (step) => doc.view.value?.scopes?.[step] ?? []),
  samples: rehearsal.samples,
})
provideSheet({
  edit: doc.edit,
  rename: doc.rename,
  removable: doc.removable,
  body: () => doc.body.value,
  findings,
  steps: computed(() => walk.value?.steps ?? []),
})

onMounted(doc.load)

// Every edit is rehearsed at once, with the answers given so far.
watch(
  () => [doc.view.value?.revision, as.value],
  () => {
    if (walk.value?.steps.length && !blocked.value) void rehearsal.again()
  },
)

/** Rehearses to a step: to the screen it is, or to the first screen behind it. */
function rehearseTo(step: string): void {
  const steps = sheetRows(walk.value?.steps ?? []).flatMap((r) => (r.step ? [r.step] : []))
  const from = steps.findIndex((s) => s.key === step)
  const screen = steps.slice(from).find((s) => s.screen)
  void rehearsal.to(screen?.key ?? '')
}

/** The view a builder arranged in the rehearsal goes to the table of the sheet. */
function ship(part: string, view: ShippedView): void {
  const at = sheetRows(walk.value?.steps ?? []).find((r) => r.id === rehearsal.view.value?.step)
  const kind = at?.step?.screen ? 'screen' : 'finish'
  const bands = at?.step?.[kind]?.bands ?? []
  void doc.edit(...shipping(bands, part, view, `${at?.pointer}/${kind}`))
}

function removed(): void {
  toast.add({
    severity: 'info',
    summary: 'The step was removed',
    detail: 'Ctrl Z brings it back.',
    life: 5000,
  })
}

useUndoKeys(doc)
</script>

<template>
  <main v-if="walk" class="walk">
    <DocumentBar kind="walkthrough" :name="name" :label="walk.label" :doc="doc">
      <label for="as" class="muted">Rehearse as</label>
      <Select
        v-model="as"
        input-id="as"
        :options="people"
        option-label="label"
        option-value="id"
        size="small"
      />
    </DocumentBar>
    <TakesEditor :takes="walk.takes ?? []"><AboutDocument :about="walk" :edit="doc.edit" /></TakesEditor>
    <div v-if="general.length" class="general">
      <FindingNote v-for="f in general" :key="f.pointer + f.text" :finding="f" />
    </div>
    <div class="split">
      <div class="left">
        <WalkSheet
          :walk="walk"
          :trace="rehearsal.trace.value"
          :place="rehearsal.place.value"
          @rehearse="rehearseTo"
          @removed="removed"
        />
        <GivesEditor :gives="walk.gives ?? []" />
      </div>
      <RehearsalPane
        :rehearsal="rehearsal"
        :takes="walk.takes ?? []"
        :as="as"
        :label="walk.label"
        :walkthrough="name"
        :blocked="blocked"
        @ship="ship"
      />
    </div>
  </main>
  <ReadFailed v-else-if="doc.failed.value" :words="doc.failed.value" @again="doc.load()" />
</template>

<style scoped>
.walk {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.general {
  padding: 0.3rem 0.8rem;
  border-bottom: 1px solid var(--line);
}
.split {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(22rem, 36%);
}
.left {
  overflow: auto;
  padding-bottom: 6rem;
}
.failed {
  padding: 2rem;
}
</style>
