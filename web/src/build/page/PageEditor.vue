<script setup lang="ts">
import { useEventListener, useStorage } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, toRef, watch } from 'vue'
import { findIn } from '@/api/options'
import type { Answers, Page, Reaction, ShippedView, Take } from '@/api/types'
import { command } from '@/frame/keys'
import ValueInput from '@/fields/ValueInput.vue'
import { usePage } from '@/surface/page'
import { useReactions } from '@/surface/reactions'
import type { Tried } from '@/surface/source'
import StillReading from '@/surface/StillReading.vue'
import SurfaceView from '@/surface/SurfaceView.vue'
import { useBuild } from '../build'
import { namesAt, provideKnown } from '../conditions/context'
import { useDocument } from '../document'
import ReadFailed from '../ReadFailed.vue'
import AboutDocument from '../AboutDocument.vue'
import DocumentBar from '../DocumentBar.vue'
import { provideSheet } from '../sheet/context'
import TakesEditor from '../sheet/TakesEditor.vue'
import FindingNote from '../sheet/FindingNote.vue'
import { useInUse } from '../inuse'
import { useUndoKeys } from '../undo'
import AddHere from './AddHere.vue'
import BandHandle from './BandHandle.vue'
import { useCopied } from '../part/clipboard'
import { partEdits, placed, shipping } from './edits'
import { events } from './events'
import HomeOf from './HomeOf.vue'
import ReactionsEditor from './ReactionsEditor.vue'
import RecordOf from './RecordOf.vue'
import { wiringOf } from './wiring'
import WiringOverlay from './WiringOverlay.vue'
import WorkBench from './WorkBench.vue'

/** A page being built: the page itself, live on trial, and below it what is chosen. */
const props = defineProps<{ name: string }>()
const build = useBuild()
const doc = useDocument<Page>('page', () => props.name)
const def = doc.body
/** What the page is opened with while it is built. */
const taken = useStorage<Answers>(`plainpath.opened.${props.name}`, {})
const live = usePage('/build/spaces/trial', toRef(props, 'name'), useInUse(), () => taken.value)

function open(key: string, value: unknown): void {
  taken.value = { ...taken.value, [key]: value }
  void live.open()
}

/** What is handed over is what the page takes now. */
const takes = computed(() => def.value?.takes ?? [])
/** The record that a page of records is of comes first. */
const handed = computed<Take[]>(() => {
  const object = def.value?.record?.object
  const record: Take[] = object
    ? [
        {
          key: 'record',
          label: build.object(object)?.label ?? object,
          type: 'reference',
          object,
          required: true,
        },
      ]
    : []
  return [...record, ...takes.value]
})
/** There is a record to look at, where the page is of one. */
const there = computed(() => !def.value?.record || !!taken.value.record)
watch(
  () => def.value?.record?.object,
  async (object, was) => {
    if (!object || (taken.value.record && was === undefined)) return
    const first = (await find(object, ''))[0]
    if (first) open('record', first)
  },
)
watch(handed, (now) => {
  const still = Object.entries(taken.value).filter(([key]) => now.some((t) => t.key === key))
  if (still.length < Object.keys(taken.value).length) {
    taken.value = Object.fromEntries(still)
    void live.open()
  }
})
const find = (object: string | undefined, text: string) => findIn(() => object)(text)
const surface = ref<InstanceType<typeof SurfaceView> | null>(null)
const selected = ref('')

const findings = computed(() => doc.view.value?.findings ?? [])
const general = computed(() => findings.value.filter((f) => !/parts|searches|reactions/.test(f.pointer)))
const blocked = computed(() => findings.value.some((f) => f.severity === 'stop'))

// What a button does stands where the row is known, too.
provideKnown({
  names: (place) => namesAt(place, () => doc.view.value?.scopes?.[''] ?? []),
  samples: shallowRef({}),
})
provideSheet({
  edit: doc.edit,
  rename: doc.rename,
  removable: doc.removable,
  body: () => doc.body.value,
  findings,
  steps: computed(() => []),
})
const reactions = useReactions({ ...live.reacting, parts: () => surface.value?.around ?? null })
/** What came of the latest button or reaction that was tried; records are put back unless they are to be kept. */
const tried = shallowRef<Tried | null>(null)
const keeps = useStorage('plainpath.keeps', false)
function reactionWords(r: Reaction): string {
  const { words, here } = events[r.when.event]
  return here ?? words
}
live.source.tries = () => !keeps.value
live.source.tried = (what) => {
  const reaction = def.value?.reactions?.find((r) => r.key === what.by)
  tried.value = { ...what, by: reaction ? reactionWords(reaction) : what.by }
}
live.source.rowPressed = (part, row) => reactions.happens('row_pressed', part, row)

function changed(part: string): void {
  void live.changed(part, surface.value!.answers())
  reactions.happens('changed', part)
}

function written(part?: string): void {
  void live.again()
  if (part) reactions.happens('written', part)
}
const main = ref<HTMLElement | null>(null)
/** The part that is being dragged. */
const dragged = ref('')

/** The part stays chosen, and the keyboard on it. */
function shift(part: string, way: 'up' | 'down' | 'left' | 'right'): void {
  edits.nudge(part, way)
  selected.value = part
  follows = true
}
const { copied, copyPart } = useCopied()

function copy(key: string): void {
  const p = parts.value.find((x) => x.part.key === key)
  if (p && def.value) copyPart(p.part, def.value.searches)
}

/** What was copied comes behind a part. */
function paste(behind: string): void {
  const p = parts.value.find((x) => x.part.key === behind)
  if (!p || !copied.value) return
  selected.value = edits.paste(copied.value, { ...p, index: p.index + 1 })
}
// Where the part lies now it is drawn anew.
let follows = false
watch(
  live.view,
  () => {
    if (follows) main.value?.querySelector<HTMLElement>('.selected > .grip')?.focus()
    follows = false
  },
  { flush: 'post' },
)
const edits = partEdits(build, () => def.value!, doc.edit)
const parts = computed(() => placed(def.value?.bands ?? []))
const at = computed(() => parts.value.find((p) => p.part.key === selected.value))
// What is chosen stays chosen when it is called by another key.
watch(parts, (now, before) => {
  const was = at.value ? undefined : before.find((p) => p.part.key === selected.value)
  const is = now.find((p) => p.pile === was?.pile && p.index === was.index)
  if (is && !before.some((p) => p.part.key === is.part.key)) selected.value = is.part.key
})

onMounted(doc.load)

// Every edit shows at once, with what was entered and chosen so far.
watch(
  () => doc.view.value?.revision,
  () => !blocked.value && there.value && void (live.view.value ? live.again() : live.open()),
)

function ship(key: string, view: ShippedView): void {
  void doc.edit(...shipping(def.value?.bands ?? [], key, view))
  selected.value = key
}

useUndoKeys(doc)

/** The lines between parts are drawn. */
const wired = useStorage('plainpath.wired', false)
const wires = computed(() => doc.view.value?.wires ?? [])
useEventListener('keydown', (event: KeyboardEvent) => {
  if (command(event) !== 'wiring') return
  event.preventDefault()
  wired.value = !wired.value
})
</script>

<template>
  <main v-if="def" ref="main" class="build-page">
    <DocumentBar kind="page" :name="name" :label="def.label" :doc="doc">
      <template #beside>
        <AboutDocument :about="def" :edit="doc.edit" />
      </template>
    </DocumentBar>
    <div v-if="handed.length" class="row taken">
      <template v-for="t in handed" :key="t.key">
        <label :for="'taken-' + t.key">{{ t.label }}</label>
        <ValueInput
          :id="'taken-' + t.key"
          :model-value="taken[t.key]"
          :type="t.type"
          :find="(text: string) => find(t.object, text)"
          @update:model-value="open(t.key, $event)"
        />
      </template>
    </div>
    <div v-if="general.length" class="general">
      <FindingNote v-for="f in general" :key="f.pointer + f.text" :finding="f" />
    </div>
    <div class="live">
      <WiringOverlay
        v-if="wired && selected && live.view.value"
        :wiring="wiringOf(wires, def)"
        :part="selected"
        :names="doc.view.value?.scopes?.[''] ?? []"
        :changes="live.view.value"
      />
      <p v-if="blocked" class="bad">
        A finding stops the page, so it is shown as it was before. Choose the part it is about.
      </p>
      <p v-else-if="live.failed.value" class="bad" role="alert">
        {{ live.failed.value }}
        <button type="button" class="plain link" @click="live.again()">Try again</button>
      </p>
      <StillReading :busy="live.busy.value" :what="live.reads()" @stop="live.stop" />
      <p v-if="!def.bands.length" class="muted">
        This page is empty. Begin with a table of what it is about.
      </p>
      <SurfaceView
        v-if="live.view.value"
        :key="live.view.value.key"
        ref="surface"
        :bands="live.view.value.bands"
        :source="live.source"
        :problems="{}"
        :selected="selected"
        ships
        within
        @select="selected = $event"
        @changed="changed"
        @pressed="(part) => reactions.happens('pressed', part)"
        @looked="live.looked"
        @edited="live.edited"
        @written="written"
        @read="live.read"
        @ship="ship"
        @dragged="dragged = $event"
        @dropped="(before) => edits.carry(dragged, before)"
        @shifted="shift"
        @copied="copy"
        @pasted="paste"
      >
        <template #band="{ band }">
          <BandHandle :bands="def.bands" :index="band" :searches="def.searches" />
        </template>
        <template #edge="{ band, column }">
          <AddHere
            :band="band"
            :column="column"
            :edits="edits"
            label="+ add here"
            beside
            @added="selected = $event"
            @dragover.prevent
            @drop.prevent="edits.carry(dragged, edits.end(band, column))"
          />
        </template>
        <template #end>
          <AddHere
            :band="def.bands.length"
            :column="0"
            :edits="edits"
            :label="def.bands.length ? '+ a band below' : '+ add'"
            @added="selected = $event"
            @dragover.prevent
            @drop.prevent="edits.carry(dragged, edits.end(def.bands.length, 0))"
          />
        </template>
      </SurfaceView>
    </div>
    <WorkBench
      v-if="at"
      :page="def"
      :at="at"
      :edits="edits"
      :wires="wires"
      :tried="tried"
      @select="selected = $event"
    />
    <ReactionsEditor v-else v-model:keeps="keeps" :page="def" :tried="tried">
      <RecordOf :page="def" />
      <HomeOf :page="def" />
      <TakesEditor :takes="takes" page />
    </ReactionsEditor>
  </main>
  <ReadFailed v-else-if="doc.failed.value" :words="doc.failed.value" @again="doc.load()" />
</template>

<style scoped>
.build-page {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.general,
.taken {
  padding: 0.3rem 0.8rem;
}
.live {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 1.4rem 1.2rem;
  --alone-height: 15rem;
  position: relative;
}
.failed {
  padding: 2rem;
}
</style>
