<script setup lang="ts">
import Button from 'primevue/button'
import { computed, nextTick } from 'vue'
import type { Band, PartKind } from '@/api/types'
import { keyFrom, useBuild } from '../build'
import { drop, moved, put, swap } from '../document'
import { useSheet } from '../sheet/context'
import { typeAt } from '../act/typeat'
import { knownValues } from '../conditions/known'
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

/** Adds a part and puts the keyboard where it is called something. */
async function add(kind: PartKind): Promise<void> {
  const part = parts[kind].fresh({ key: (wish) => keyFrom(wish, taken.value), of: shown(kind) })
  const last = props.bands.length - 1
  if (last < 0) void sheet.edit(put(props.pointer + '/bands', [{ columns: [{ parts: [part] }] }]))
  else if (props.bands[last].columns.length === 1)
    void sheet.edit(put(`${props.pointer}/bands/${last}/columns/0/parts/-`, part))
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
  const band = props.bands[i]
  if (band.columns[j].parts.length > 1) void sheet.edit(drop(`${pileAt(i, j)}/${k}`))
  else if (band.columns.length > 1) void sheet.edit(drop(`${props.pointer}/bands/${i}/columns/${j}`))
  else void sheet.edit(drop(`${props.pointer}/bands/${i}`))
}

function move(i: number, j: number, k: number, by: number): void {
  void sheet.edit(moved(pileAt(i, j), k, k + by))
}
</script>

<template>
  <template v-for="(band, i) in bands" :key="i">
    <template v-for="(column, j) in band.columns" :key="j">
      <PartEditor
        v-for="(part, k) in column.parts"
        :key="part.key"
        :ref="note(part.key)"
        :model-value="part"
        :step="step"
        :place="place"
        :pointer="`${pileAt(i, j)}/${k}`"
        :first="k === 0"
        :last="k === column.parts.length - 1"
        @update:model-value="sheet.edit(swap(`${pileAt(i, j)}/${k}`, $event))"
        @remove="remove(i, j, k)"
        @move="move(i, j, k, $event)"
      />
    </template>
  </template>
  <div class="row">
    Add
    <Button
      v-for="kind in partKinds.filter((k) => !closing || !parts[k].pressed)"
      :key="kind"
      text
      size="small"
      :label="kind"
      @click="add(kind)"
    />
  </div>
</template>
