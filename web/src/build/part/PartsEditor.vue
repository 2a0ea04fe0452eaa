<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed, nextTick } from 'vue'
import type { Band, KnownSearch, PartKind } from '@/api/types'
import { keyFrom, useBuild } from '../build'
import { put, swap } from '../document'
import { useSheet } from '../sheet/context'
import { typeAt } from '../act/typeat'
import { knownValues } from '../conditions/known'
import { beside, carried, taken as goneFrom } from './bands'
import BandSettings from './BandSettings.vue'
import { pasted, useCopied } from './clipboard'
import PartEditor from './PartEditor.vue'
import type { Beginning } from '@/surface/fresh'
import { partKinds, parts } from '@/surface/parts'
import { useKnown } from '../conditions/context'

/** The parts of a screen, band by band. The pointer is that of the bands' owner, the place that of expressions in them. */
const props = defineProps<{
  step: string
  place: string
  bands: Band[]
  pointer: string
  closing?: boolean
  /** The searches of the screen, by which its parts are fed. */
  searches?: KnownSearch[]
}>()
const build = useBuild()
const sheet = useSheet()
const here = useKnown()
const taken = computed(() => props.bands.flatMap((b) => b.columns.flatMap((c) => c.parts.map((p) => p.key))))
const known = computed(() => knownValues(build, here.names(props.place), {}))

/** What a part of a kind shows to begin with: the list found last, or the first record but the person. */
function shown(kind: PartKind): Beginning['of'] {
  const all = known.value.filter((k) => k.kind === parts[kind].shows && !k.path.startsWith('person'))
  const first = all[0]
  if (!first) return undefined
  const answers = typeAt(build, here.names(props.step), first.path)?.answers
  const amount = answers?.findLast((a) => a.type.kind === 'money') // prices come before what they come to
  const values = answers?.map((a) => ({ value: a.key, total: a === amount || undefined }))
  return { path: first.path, object: build.object(first.object), values }
}

const editors = new Map<string, InstanceType<typeof PartEditor>>()
const note = (key: string) => (editor: unknown) => {
  if (editor) editors.set(key, editor as InstanceType<typeof PartEditor>)
  else editors.delete(key)
}

/** Adds a part, to a column or to the last one, and puts the keyboard where it is called something. */
async function add(kind: PartKind, column?: string): Promise<void> {
  const part = parts[kind].fresh({ key: (wish) => keyFrom(wish, taken.value), of: shown(kind) })
  const last = props.bands.length - 1
  if (column) void sheet.edit(put(`${column}/-`, part))
  else if (last < 0) void sheet.edit(put(props.pointer + '/bands', [{ columns: [{ parts: [part] }] }]))
  else if (props.bands[last].columns.length === 1) void sheet.edit(put(`${pileAt(last, 0)}/-`, part))
  else void sheet.edit(put(`${props.pointer}/bands/-`, { columns: [{ parts: [part] }] }))
  await nextTick()
  editors.get(part.key)?.focus()
}

function pileAt(i: number, j: number): string {
  return `${props.pointer}/bands/${i}/columns/${j}/parts`
}

async function remove(i: number, j: number, k: number): Promise<void> {
  const gone = props.bands[i].columns[j].parts[k]
  if (!(await sheet.removable(`${pileAt(i, j)}/${k}`, `“${gone.label || gone.key}”`))) return
  void sheet.edit(...goneFrom(props.bands, props.pointer, { band: i, column: j, index: k }))
}

function move(i: number, j: number, k: number, by: number): void {
  const at = { band: i, column: j, index: k }
  const to = beside(props.bands, at, by < 0 ? 'up' : 'down')
  if (to) void sheet.edit(...carried(props.bands, props.pointer, at, to))
}

/** There is something to say of bands where there are several, or where something is said of one. */
const banded = computed(
  () =>
    props.bands.length > 1 ||
    props.bands.some((b) => b.title || b.stands || b.offered_when || b.columns.length > 1),
)

const { copied, copyPart } = useCopied()

/** What was copied comes last, with the searches that feed it. */
function paste(): void {
  if (!copied.value) return
  const found = (props.searches ?? []).map((s) => s.key)
  const { band, searches } = pasted(copied.value, [...taken.value, ...found])
  void sheet.edit(
    ...(searches.length && !found.length ? [put(props.pointer + '/searches', [])] : []),
    ...searches.map((s) => put(props.pointer + '/searches/-', s)),
    ...(props.bands.length ? [] : [put(props.pointer + '/bands', [])]),
    put(props.pointer + '/bands/-', band),
  )
}

const offered = computed(() => partKinds.filter((k) => !props.closing || !parts[k].pressed))

function addBand(): void {
  void sheet.edit(put(props.pointer + '/bands/-', { columns: [{ parts: [] }] }))
}
</script>

<template>
  <template v-for="(band, i) in bands" :key="i">
    <BandSettings
      v-if="banded"
      :bands="bands"
      :index="i"
      :owner="pointer"
      :place="place"
      :searches="searches ?? []"
    />
    <template v-for="(column, j) in band.columns" :key="j">
      <PartEditor
        v-for="(part, k) in column.parts"
        :key="part.key"
        :ref="note(part.key)"
        :model-value="part"
        :step="step"
        :place="place"
        :pointer="`${pileAt(i, j)}/${k}`"
        :first="!beside(bands, { band: i, column: j, index: k }, 'up')"
        :last="!beside(bands, { band: i, column: j, index: k }, 'down')"
        @update:model-value="sheet.edit(swap(`${pileAt(i, j)}/${k}`, $event))"
        @remove="remove(i, j, k)"
        @copy="copyPart(part, searches ?? [])"
        @move="move(i, j, k, $event)"
      />
      <Select
        v-if="banded"
        :model-value="null"
        :options="offered"
        size="small"
        placeholder="add here …"
        :aria-label="`Add to column ${j + 1} of band ${i + 1}`"
        class="here"
        @update:model-value="add($event, pileAt(i, j))"
      />
    </template>
  </template>
  <div class="row">
    Add
    <Button v-for="kind in offered" :key="kind" text size="small" :label="kind" @click="add(kind)" />
    <Button v-if="copied && !closing" text size="small" :label="`paste “${copied.label}”`" @click="paste" />
    <Button v-if="bands.length" text size="small" severity="secondary" label="a band" @click="addBand" />
  </div>
</template>

<style scoped>
.here {
  align-self: flex-start;
}
</style>
