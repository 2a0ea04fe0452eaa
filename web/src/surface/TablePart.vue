<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import InputText from 'primevue/inputtext'
import FloatPanel from '@/frame/FloatPanel.vue'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import type { Condition, Heading, Look } from '@/api/types'
import { count, nothing, type Selection } from './selection'
import { usePlace } from './place'
import type { PartEmits, PartProps } from './parts'
import { arranging } from './table/arranging'
import { asking } from './table/asking'
import { useButtons } from './table/buttons'
import ColumnsPanel from './table/ColumnsPanel.vue'
import ConditionForm from './table/ConditionForm.vue'
import FigureList from './table/FigureList.vue'
import LookSentence from './table/LookSentence.vue'
import { command } from '@/frame/keys'
import { useEdits } from './table/edits'
import { keepEdits } from './table/keptedits'
import { useMoves } from './table/moves'
import StillReading from './StillReading.vue'
import { useRoom } from './table/room'
import PressButton from './table/PressButton.vue'
import ProofPanel from './table/ProofPanel.vue'
import RatesLine from './table/RatesLine.vue'
import SaveBar from './table/SaveBar.vue'
import { useChanges } from './changes'
import { useLive } from './table/live'
import { useTable } from './table/table'
import TableGrid from './table/TableGrid.vue'
import TakeOut from './table/TakeOut.vue'
import { useViews } from './table/views'
import ViewsPanel from './table/ViewsPanel.vue'

/** A table: what it holds, how it is looked at, and its rows. */
const props = defineProps<PartProps>()
const chosen = defineModel<Selection>({ required: true })
const emit = defineEmits<PartEmits>()

const def = computed(() => props.part.table!)
const ask = asking(
  () => props.source,
  () => props.part.key,
  () => chosen.value.all,
)
const table = useTable(() => props.part, ask)
const arrange = arranging(table)
const here = props.source.at(props.part.key)
const edits = useEdits(table, ask, keepEdits()([props.part.key, here.as, ...(here.inside ?? [])].join()))
useMoves(table, edits)
// What is said of an earlier choice holds until there is another.
const choseAgain = ref(false)
watch(
  () => props.part,
  () => (choseAgain.value = false),
)
watch(chosen, () => (choseAgain.value = true))
const howMany = computed(() => count(chosen.value, allMatching.value))
// All that matched when they were chosen, which is not all of another look.
const allMatching = ref(0)
// What is typed is told after a pause, everything else at once.
const typed = useDebounceFn(() => emit('looked', table.look.value), 250)
watch(
  () => table.look.value,
  (is, was) => {
    if (JSON.stringify(is) === JSON.stringify(was)) return
    if (is.text === was.text) emit('looked', is)
    else void typed()
  },
)
watch(
  () => [...edits.rows.value.keys()].join(),
  () => emit('edited', [...edits.rows.value.keys()]),
)
const buttons = useButtons(
  () => props.part,
  table,
  ask,
  () => props.source,
  () => ({ selection: chosen.value, count: howMany.value }),
  () => emit('written'),
)

const stale = ref(false)
if (!props.source.at(props.part.key).rehearsal) {
  const live = useLive(table, ask, () => def.value.object)
  useChanges(props.source.base, (told) => void live.hear(told))
  // What this tab did itself is shown as it is now; of what others did the table says so, unless
  // it is to read itself again.
  watch(live.due, (due) => {
    if (due === 'nothing') return
    live.due.value = 'nothing'
    if (edits.count.value)
      stale.value ||= due === 'others' // what is being changed stays
    else if (due === 'own' || def.value.live === 'refresh') void refresh()
    else stale.value = true
  })
}

async function refresh(): Promise<void> {
  stale.value = false
  await table.again()
}

// Who comes back from a record finds the table as it was left.
const gridView = ref<InstanceType<typeof TableGrid> | null>(null)
const passing = !!here.run || !!here.rehearsal // screens come and go without being left
const left = usePlace(passing ? '' : `table ${props.part.key} ${here.inside ?? ''}`, () => ({
  words: table.words.value,
  rows: table.rows.value.length,
  at: gridView.value?.place(),
}))
onMounted(async () => {
  if (!left) return
  if (left.words || left.rows > table.rows.value.length) await table.resume(left)
  if (left.at) await gridView.value?.goTo(left.at)
})

const views = useViews(table, ask, () => [props.source, props.part.key])
const { current, lost } = views

function ship(label: string): void {
  const { look, ...laidOut } = table.arrangement.value
  emit('ship', { label, body: { ...laidOut, look: { ...look, after: undefined, within: undefined } } })
  current.value = label
  viewsPanel.value?.hide()
}

const outOfSight = computed(() => {
  const shown = new Set(table.rows.value.map((r) => r.id))
  return chosen.value.all ? 0 : chosen.value.rows.filter((r) => !shown.has(r.id)).length
})

async function chooseAll(): Promise<void> {
  const all = await table.howMany()
  if (all === null) return
  allMatching.value = all
  const { text, filter, group } = table.look.value
  const hidden = group?.hidden?.length ? { group } : {}
  chosen.value = { rows: [], all: { text, filter, ...hidden } }
}

const room = useRoom()
const isAlone = computed(() => room.alone.value === props.part.key)
const root = ref<HTMLElement | null>(null)

/** What the table shares its room with comes back. */
async function together(): Promise<void> {
  room.alone.value = ''
  await nextTick()
  root.value?.scrollIntoView({ block: 'nearest' })
}

const columnsPanel = ref<InstanceType<typeof FloatPanel> | null>(null)
const viewsPanel = ref<InstanceType<typeof FloatPanel> | null>(null)
const outPanel = ref<InstanceType<typeof FloatPanel> | null>(null)
const proofPanel = ref<InstanceType<typeof FloatPanel> | null>(null)
const proved = shallowRef<Look>({})

/** Opens the proof of what is shown, or of a part of it. */
function prove(part: Partial<Look>, event: Event): void {
  proved.value = { ...table.look.value, ...part }
  proofPanel.value?.toggle(event)
}
const conditionPanel = ref<InstanceType<typeof FloatPanel> | null>(null)
const others = ref<Heading[]>([])
const editing = ref(-1)
const begun = ref<Condition | null>(null)
const head = ref<HTMLElement | null>(null)

/** Fields that can be asked about: the columns, then the record's other fields. */
const fields = computed(() => {
  const columns = table.columns.value
  const rest = others.value.filter((f) => !columns.some((c) => c.path === f.path))
  const asked = begun.value?.field ? table.headingOf(begun.value.field) : undefined
  const all = [...columns, ...rest]
  return asked && !all.some((f) => f.path === asked.path) ? [...all, asked] : all
})

/** Opens the form for a condition: one there is, a new one, or one on a column. */
async function condition(by: EventTarget | null, index: number, start?: Heading): Promise<void> {
  editing.value = index
  begun.value = start ? { field: start.path } : (table.arrangement.value.look.filter?.[index] ?? null)
  // The press that asked for it is over first, or it would count as one beside the form.
  await new Promise((done) => setTimeout(done))
  conditionPanel.value?.show({ currentTarget: by } as Event)
  others.value = (await ask.fields('').catch(() => ({ fields: [] }))).fields
}

/** What was changed is saved from anywhere in the table, the search box as well. */
function key(event: KeyboardEvent): void {
  if (event.defaultPrevented || command(event) !== 'save' || !edits.count.value) return
  event.preventDefault()
  void edits.save()
}

function filtered(c: Condition): void {
  const filter = [...(table.arrangement.value.look.filter ?? [])]
  if (editing.value >= 0) filter[editing.value] = c
  else filter.push(c)
  arrange.filter(filter)
  conditionPanel.value?.hide()
}
</script>

<template>
  <div
    ref="root"
    class="part"
    :class="{ alone: isAlone }"
    :aria-invalid="!!problem"
    @keydown="key"
    @keydown.esc="isAlone && !$event.defaultPrevented && together()"
  >
    <button v-if="isAlone" type="button" class="plain link back" @click="together">
      Show everything again
    </button>
    <div ref="head" class="head">
      <h2 v-if="part.label" :id="'h-' + part.key">{{ part.label }}</h2>
      <button
        type="button"
        class="plain count"
        title="Where they come from"
        aria-live="polite"
        @click="prove({ within: undefined }, $event)"
      >
        <template v-if="!table.counted.value">more than</template>
        {{ table.total.value.toLocaleString() }} {{ table.total.value === 1 ? 'record' : 'records' }}
      </button>
      <span v-if="def.select !== 'none' && howMany" class="muted">
        · {{ howMany.toLocaleString() }} {{ def.ask?.length ? 'filled in' : 'chosen'
        }}<template v-if="outOfSight">, {{ outOfSight.toLocaleString() }} not in view</template>
        <template v-if="def.most && howMany >= def.most"> – no more than {{ def.most }} can be</template>
        <button type="button" class="plain link" @click="chosen = nothing()">clear</button>
      </span>
      <span class="space" />
      <button type="button" class="plain tool" @click="condition($event.currentTarget, -1)">Filter …</button>
      <button type="button" class="plain tool" @click="columnsPanel?.toggle($event)">Columns</button>
      <button
        v-if="!source.at(part.key).rehearsal"
        type="button"
        class="plain tool"
        @click="outPanel?.toggle($event)"
      >
        Download
      </button>
      <button type="button" class="plain tool" @click="viewsPanel?.toggle($event)">
        {{ current ? 'View: ' + current : 'Views' }}
      </button>
      <InputText
        v-if="def.keyword?.length"
        v-model="table.words.value"
        size="small"
        class="words"
        :placeholder="'Search ' + def.keyword.join(', ').toLowerCase()"
        :aria-label="'Search in ' + (part.label ?? 'the table')"
        @update:model-value="table.search"
      />
    </div>
    <LookSentence
      :table="table"
      :arranging="arrange"
      @edit="(i, event) => condition(event.currentTarget, i)"
    />
    <p v-if="part.lost && !choseAgain" class="care" role="status">{{ part.lost }}</p>
    <p v-for="l in lost" :key="l" class="care" role="status">
      The view was kept before something it needs was removed, so it is shown without that. {{ l }}
    </p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <p v-if="buttons.above.value.length" class="buttons">
      <PressButton v-for="b in buttons.above.value" :key="b.key" :button="b" :buttons="buttons" />
    </p>
    <p v-if="stale" class="stale" role="status">
      Records shown here were changed meanwhile.
      <button type="button" class="plain link" @click="refresh">Show how they are now</button>
    </p>
    <SaveBar :edits="edits" :table="table" />
    <p v-if="table.failed.value" class="bad" role="alert">
      <template v-if="def.failed">{{ def.failed }}</template>
      {{ table.failed.value }}
      <template v-if="table.lines.value.length">What is shown is as it was read before.</template>
      <button type="button" class="plain link" @click="table.load()">Try again</button>
    </p>
    <StillReading :busy="table.busy.value" what="the rows" @stop="table.stop" />
    <TableGrid
      ref="gridView"
      v-model="chosen"
      :part="part"
      :table="table"
      :arranging="arrange"
      :edits="edits"
      :buttons="buttons"
      :ask="ask"
      :source="source"
      @all="chooseAll"
      @prove="prove"
      @go="emit('go')"
      @filter="condition(head, -1, $event)"
    >
      <p v-if="!table.lines.value.length && !table.failed.value" class="nothing">
        <template v-if="table.busy.value">{{ def.reading || 'Reading…' }}</template>
        <template v-else-if="table.words.value">Nothing here has “{{ table.words.value }}” in it.</template>
        <template v-else-if="table.look.value.filter?.length">No record is like that.</template>
        <template v-else>{{ def.nothing || 'There is nothing in this list.' }}</template>
      </p>
    </TableGrid>
    <p v-if="table.groups.value?.totals.length" class="totals">
      <strong>All {{ table.groups.value.total.toLocaleString() }}</strong>
      <FigureList
        :figures="table.groups.value.totals"
        :table="table"
        @prove="(t, event) => prove({ totals: [t] }, event)"
      />
      <RatesLine v-if="table.groups.value.rates_on" :table="table" />
    </p>
    <p v-if="table.groups.value?.more" class="care">
      There are more groups than the {{ table.groups.value.groups.length.toLocaleString() }} shown; the totals
      are over all of them.
    </p>
    <FloatPanel ref="columnsPanel" aria-label="Columns"
      ><ColumnsPanel :table="table" :arranging="arrange" :ask="ask"
    /></FloatPanel>
    <FloatPanel ref="viewsPanel" aria-label="Views"
      ><ViewsPanel :views="views" :ships="ships ?? false" @done="viewsPanel?.hide()" @ship="ship"
    /></FloatPanel>
    <FloatPanel ref="proofPanel" aria-label="Proof"
      ><ProofPanel
        :heading-of="table.headingOf"
        :converts="table.converts.value"
        :ask="ask"
        :look="proved"
        :open="(id) => source.recordAddress(def.object, id)"
    /></FloatPanel>
    <FloatPanel ref="outPanel" aria-label="Download"
      ><TakeOut :table="table" :ask="ask" :chosen="chosen" :count="howMany" :name="part.label ?? 'table'"
    /></FloatPanel>
    <FloatPanel ref="conditionPanel" aria-label="A condition">
      <ConditionForm
        :key="editing + (begun?.field ?? '')"
        :fields="fields"
        :condition="begun"
        :find="ask.options"
        @done="filtered"
      />
    </FloatPanel>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 0.5rem 0.8rem;
  flex-wrap: wrap;
  margin-bottom: 0.35rem;
}
.space {
  flex: 1;
}
.count {
  color: var(--muted);
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.tool {
  color: var(--accent);
}
.tool:hover {
  text-decoration: underline;
}
.words {
  width: 15rem;
}
.alone {
  --table-height: var(--alone-height, max(24rem, calc(100vh - 19rem)));
}
.back {
  margin-bottom: 0.5rem;
}
.nothing {
  padding: 1rem 0.7rem;
  margin: 0;
}
p.nothing:not(.bad) {
  color: var(--muted);
}
.stale {
  margin: 0 0 0.4rem;
  color: var(--care);
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  margin: 0 0 0.5rem;
}
.muted > .link {
  margin-left: 0.5rem;
}
.totals {
  margin: 0.35rem 0 0;
}
</style>
