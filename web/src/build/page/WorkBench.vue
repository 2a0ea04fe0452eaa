<script setup lang="ts">
import { computed } from 'vue'
import type { ActKind, Page, Part, Reaction, Wire } from '@/api/types'
import { acts } from '../act/acts'
import { drop, put, swap } from '../document'
import { events } from './events'
import type { Tried } from '@/surface/source'
import { useBuild } from '../build'
import { rowPlace, useKnown } from '../conditions/context'
import { knownValues } from '../conditions/known'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import OfferedWhen from '../sheet/OfferedWhen.vue'
import { beside } from '../part/bands'
import PartEditor from '../part/PartEditor.vue'
import SearchEditor from '../sheet/SearchEditor.vue'
import MarksEditor from './MarksEditor.vue'
import InsideEditor from './InsideEditor.vue'
import ButtonsEditor from './ButtonsEditor.vue'
import { sourcesOf, useCopied } from '../part/clipboard'
import type { PartEdits, PlacedPart } from './edits'
import ShippedViews from './ShippedViews.vue'
import TriedReaction from './TriedReaction.vue'
import { type Line, wiringOf } from './wiring'

/** What the part that is chosen shows, what feeds it, and what it sets going. */
const props = defineProps<{
  page: Page
  at: PlacedPart
  edits: PartEdits
  wires: Wire[]
  tried: Tried | null
}>()
const emit = defineEmits<{ select: [part: string] }>()
const sheet = useSheet()
const here = useKnown()
const build = useBuild()
const part = computed(() => props.at.part)
const pointer = computed(() => `${props.at.pile}/${props.at.index}`)
/** The searches that feed it, by their places. */
const searches = computed(() => {
  const sources = sourcesOf(part.value)
  return props.page.searches.flatMap((s, i) => (sources.includes(s.key) ? [i] : []))
})
const findingsOf = (search: number) =>
  sheet.findings.value.filter((f) => `${f.pointer}/`.startsWith(`/searches/${search}/`))
const object = computed(
  () => knownValues(build, here.names(''), {}).find((k) => k.path === part.value.table?.source)?.object,
)
const label = (key: string) => here.names('').find((n) => n.key === key)?.label || key

async function remove(): Promise<void> {
  if (await sheet.removable(pointer.value, `“${part.value.label || part.value.key}”`))
    props.edits.remove(props.at)
}

const wiring = computed(() => wiringOf(props.wires, props.page))
const feeders = computed(() => wiring.value.into(part.value.key))
const fed = computed(() => wiring.value.outOf(part.value.key))
/** What is taken, and the search that it is taken by. */
const through = (w: Line) => (w.by ? `${w.value} in ${label(w.by)}` : w.value)

const ofList = (path: string) =>
  knownValues(build, here.names(''), {}).find((k) => k.path === path && k.kind === 'list')?.object

/** Lets a table show another list. A search that fed nothing else goes. */
function feed(table: NonNullable<Part['table']>, source: string): void {
  const of = build.object(ofList(source))
  const other = of && of.key !== object.value
  const columns = other ? { columns: [{ path: of.label_field }], keyword: undefined } : {}
  const [was] = searches.value
  const alone =
    was !== undefined &&
    !props.wires.some((w) => w.to !== part.value.key && w.from === props.page.searches[was].key)
  void sheet.edit(
    put(pointer.value + '/table', { ...table, source, ...columns }),
    ...(alone ? [drop(`/searches/${was}`)] : []),
  )
}

function onDemand(search: number, yes: boolean): void {
  const at = `/searches/${search}/on_demand`
  void sheet.edit(yes ? put(at, true) : drop(at))
}

/** What the page does when something happens to the part. */
const reactions = computed(() => (props.page.reactions ?? []).filter((r) => r.when.part === part.value.key))
const saidOf = (r: Reaction) =>
  r.do
    .map((l) => acts[l.kind as ActKind].says(l, { build, names: here.names(''), title: '' }).toLowerCase())
    .join(', then ') || '…'

const { copyPart } = useCopied()

function change(next: Part): void {
  void sheet.edit(swap(pointer.value, next))
}
</script>

<template>
  <section class="bench" :aria-label="'Settings of ' + (part.label || part.key)">
    <div>
      <h2>
        Shows
        <button type="button" class="plain link page" @click="emit('select', '')">the whole page</button>
      </h2>
      <PartEditor
        :key="part.key"
        page
        step=""
        place=""
        :model-value="part"
        :pointer="pointer"
        :first="!beside(page.bands, at, 'up')"
        :last="!beside(page.bands, at, 'down')"
        @update:model-value="change"
        @remove="remove"
        @copy="copyPart(part, page.searches)"
        @move="edits.nudge(part.key, $event < 0 ? 'up' : 'down')"
      />
      <ShippedViews
        v-if="part.table"
        :model-value="part.table.views ?? []"
        @update:model-value="change({ ...part, table: { ...part.table!, views: $event } })"
      />
      <MarksEditor
        v-if="part.table && object"
        :model-value="part.table.marks ?? []"
        :pointer="pointer + '/table/marks'"
        :place="rowPlace(object)"
        :object="object"
        :columns="part.table.columns"
        @update:model-value="change({ ...part, table: { ...part.table!, marks: $event } })"
      />
      <InsideEditor
        v-if="part.table && object"
        :model-value="part.table.inside"
        :pointer="pointer + '/table/inside'"
        :object="object"
        @update:model-value="change({ ...part, table: { ...part.table!, inside: $event } })"
      />
    </div>
    <div>
      <h2>Fed by</h2>
      <div v-if="part.table" class="row">
        <KnownPicker
          :model-value="part.table.source"
          place=""
          kind="list"
          label="What the table shows"
          placeholder="a list"
          @update:model-value="feed(part.table, $event)"
        />
      </div>
      <template v-for="s in searches" :key="part.key + page.searches[s].key">
        <p v-if="searches.length > 1" class="name">{{ page.searches[s].label }}</p>
        <SearchEditor :search="page.searches[s].search" place="" :pointer="`/searches/${s}/search`" />
        <label class="row">
          <input
            type="checkbox"
            :checked="page.searches[s].on_demand ?? false"
            @change="onDemand(s, ($event.target as HTMLInputElement).checked)"
          />
          read only on demand
        </label>
        <FindingNote v-for="f in findingsOf(s)" :key="f.pointer + f.text" :finding="f" />
      </template>
      <p v-if="feeders.length" class="muted">It waits for</p>
      <ul v-if="feeders.length" class="wires">
        <li v-for="w in feeders" :key="w.from + w.value + w.by">
          <button type="button" class="plain link" @click="emit('select', w.from)">
            {{ label(w.from) }}
          </button>
          <code>{{ through(w) }}</code>
        </li>
      </ul>
      <p v-if="!feeders.length && !searches.length && !part.table" class="muted">Nothing on this page.</p>
    </div>
    <div>
      <h2>Reacts</h2>
      <template v-if="fed.length">
        <p>What is {{ part.table ? 'chosen' : 'entered' }} here goes to</p>
        <ul class="wires">
          <li v-for="w in fed" :key="w.to + w.value + w.by">
            <button type="button" class="plain link" @click="emit('select', w.to)">{{ label(w.to) }}</button>
            <code>{{ through(w) }}</code>
          </li>
        </ul>
      </template>
      <p v-if="!fed.length && !part.button" class="muted">Nothing else depends on it.</p>
      <p v-for="r in reactions" :key="r.key">
        <button type="button" class="plain link" @click="emit('select', '')">
          When {{ events[r.when.event].here }}</button
        >: {{ saidOf(r) }}
      </p>
      <p v-if="part.button && !reactions.length" class="muted">
        What its press does is said for
        <button type="button" class="plain link" @click="emit('select', '')">the whole page</button>
      </p>
      <OfferedWhen
        place=""
        :model-value="part.offered_when"
        @update:model-value="change({ ...part, offered_when: $event })"
      />
      <ButtonsEditor
        v-if="part.table && object"
        :model-value="part.table.buttons ?? []"
        :pointer="pointer + '/table/buttons'"
        :place="rowPlace(object)"
        :object="object"
        @update:model-value="change({ ...part, table: { ...part.table!, buttons: $event } })"
      />
      <TriedReaction v-if="tried" :tried="tried" />
    </div>
  </section>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr) minmax(0, 1fr);
  gap: 1.2rem;
  height: 18.5rem;
  overflow: auto;
  padding: 0.6rem 1rem 0.8rem;
  background: var(--panel);
  border-top: 2px solid var(--accent);
}
h2 {
  font-size: 0.85rem;
  color: var(--muted);
  margin-bottom: 0.5rem;
}
p {
  margin: 0.4rem 0;
}
.link {
  margin-right: 0.4rem;
}
.wires {
  margin: 0.3rem 0;
  padding: 0;
  list-style: none;
}
code {
  color: var(--muted);
  overflow-wrap: anywhere;
}
</style>
