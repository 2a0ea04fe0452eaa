<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, watch } from 'vue'
import type { Answers, BandView, Look, PartView, ShippedView } from '@/api/types'
import { provideAround } from './around'
import BandFrame from './BandFrame.vue'
import { parts as kinds } from './parts'
import { usePlace } from './place'
import { provideRoom } from './table/room'
import type { SurfaceSource } from './source'

type Way = 'up' | 'down' | 'left' | 'right'

const props = defineProps<{
  bands: BandView[]
  source: SurfaceSource
  problems: Record<string, string>
  /** The part a builder has chosen; undefined where nobody builds. */
  selected?: string
  /** The name under which what was entered is kept for whoever comes back; none on screens. */
  place?: string
  /** Views can be given to others. */
  ships?: boolean
  /** It stands in something that scrolls. */
  within?: boolean
}>()
const emit = defineEmits<{
  go: []
  changed: [part: string]
  pressed: [part: string]
  select: [part: string]
  written: [part?: string]
  /** A search on demand is asked for. */
  read: [search: string]
  looked: [part: string, look: Look]
  edited: [part: string, rows: number[]]
  ship: [part: string, view: ShippedView]
  /** A builder takes a part to be put elsewhere, puts what was taken before one, or moves it by a key. */
  dragged: [part: string]
  dropped: [before: string]
  shifted: [part: string, way: Way]
  copied: [part: string]
  pasted: [behind: string]
}>()
const builds = computed(() => props.selected !== undefined)

/** Nothing of it is there to be seen or given: it waits, or could not be read. */
const absent = (p: PartView): boolean => !!p.waiting || !!p.refused

/** What the person gave, by part. */
const held = reactive<Record<string, unknown>>({})

function parts(): PartView[] {
  return props.bands.flatMap((b) => b.columns.flatMap((c) => c.parts))
}

/** Where the surface scrolls its tables do not, but for one that is shown alone for a while. */
const { alone } = provideRoom(computed(() => props.within || parts().filter((p) => p.table).length > 1))
const shown = (part: PartView) => !alone.value || part.key === alone.value
/** What must not be behind another tab: what the builder has chosen, and what is wrong. */
const seen = computed(() => [
  ...(props.selected ? [props.selected] : []),
  ...parts()
    .map((p) => p.key)
    .filter((key) => props.problems[key]),
])
watch(
  () => parts().some((p) => p.key === alone.value),
  (there) => !there && (alone.value = ''),
)
// What the person touched stays when the screen is computed anew, after an edit of the
// sheet for example. Another screen is another component.
const touched = new Set<string>()
/** Why what was given in a part is not there any more, until something else is. */
const lost = reactive<Record<string, string>>({})

interface Entered {
  held: Record<string, unknown>
  touched: string[]
  alone: string
}
if (props.place) {
  const now = (): Entered => ({ held: { ...held }, touched: [...touched], alone: alone.value })
  const left = usePlace<Entered>(props.place, now)
  left?.touched.forEach((key) => touched.add(key))
  Object.assign(held, left?.held)
  alone.value = left?.alone ?? ''
}

watch(
  () => props.bands,
  () => {
    for (const p of parts().filter((p) => !p.same)) {
      // What is in an input can be seen and may fit again; rows that are gone cannot.
      if (p.lost && p.table) touched.delete(p.key)
      if (p.lost || !p.table) lost[p.key] = p.lost ?? ''
    }
    for (const key of Object.keys(held)) if (!touched.has(key)) delete held[key]
    for (const p of parts()) {
      const gives = kinds[p.kind].gives
      if (gives && !absent(p) && !(p.key in held)) held[p.key] = gives.begin(p)
    }
  },
  { immediate: true },
)

/** What is typed is told after a pause, what is chosen at once. */
const typed = useDebounceFn((part: string) => emit('changed', part), 300)

function touch(part: PartView): void {
  touched.add(part.key)
  lost[part.key] = ''
  if (kinds[part.kind].gives?.typed(part)) void typed(part.key)
  else emit('changed', part.key)
}

const ways: Record<string, Way> = { ArrowUp: 'up', ArrowDown: 'down', ArrowLeft: 'left', ArrowRight: 'right' }

function shift(event: KeyboardEvent, part: string): void {
  const way = ways[event.key]
  if (!way) return
  event.preventDefault()
  emit('shifted', part, way)
}

const around = provideAround(
  (key, value) => {
    const part = parts().find((p) => p.key === key)
    if (!part) return
    held[key] = value
    touched.add(key)
    emit('changed', key)
  },
  () => emit('written'),
)

/** What the person gave, by part, as it is sent; what they touched of it, or all. */
function answers(all = true): Answers {
  const out: Answers = {}
  for (const p of parts()) {
    if (absent(p) || (!all && !touched.has(p.key))) continue
    const given = kinds[p.kind].gives?.answer(p, held[p.key])
    if (given !== undefined) out[p.key] = given
  }
  return out
}
defineExpose({ answers, around })
</script>

<template>
  <template v-for="(band, i) in bands" :key="i">
    <BandFrame
      v-if="!band.absent || builds"
      :band="band"
      :name="`${source.base} ${place ?? ''} ${band.title ?? i}`"
      :alone="alone"
      :seen="seen"
    >
      <template #beside>
        <slot name="band" :band="i" />
        <p v-if="band.absent" class="muted">This band is not offered just now.</p>
      </template>
      <template #default="{ column, at }">
        <div
          v-for="part in column.parts"
          v-show="shown(part)"
          :key="part.key"
          class="place"
          :data-part="part.key"
          :data-wrong="problems[part.key] ? '' : undefined"
          :class="{ builds, selected: builds && selected === part.key }"
          @focusin="builds && emit('select', part.key)"
          @click="builds && emit('select', part.key)"
          @dragover="builds && $event.preventDefault()"
          @drop.prevent="builds && emit('dropped', part.key)"
        >
          <button
            v-if="builds"
            type="button"
            class="plain grip"
            draggable="true"
            title="Drag it elsewhere, or press Alt and an arrow; Ctrl C copies it"
            @click="emit('select', part.key)"
            @dragstart="emit('dragged', part.key)"
            @keydown.alt="shift($event, part.key)"
            @keydown.ctrl.c.prevent="emit('copied', part.key)"
            @keydown.ctrl.v.prevent="emit('pasted', part.key)"
          >
            {{ part.label || part.kind }}
          </button>
          <div v-if="part.waiting" class="waiting">
            <h3 v-if="part.label">{{ part.label }}</h3>
            <p class="muted">
              This is read when it is asked for.
              <button type="button" class="plain link" @click="emit('read', part.waiting.search)">
                Read it now
              </button>
            </p>
          </div>
          <div v-else-if="part.refused" class="waiting">
            <h3 v-if="part.label">{{ part.label }}</h3>
            <p class="bad">{{ part.refused }}</p>
          </div>
          <component
            :is="kinds[part.kind].view(part)"
            v-else
            v-model="held[part.key]"
            :part="part"
            :source="source"
            :problem="problems[part.key]"
            :ships="ships"
            @update:model-value="touch(part)"
            @go="emit('go')"
            @press="emit('pressed', part.key)"
            @ship="(view: ShippedView) => emit('ship', part.key, view)"
            @looked="(look: Look) => emit('looked', part.key, look)"
            @edited="(rows: number[]) => emit('edited', part.key, rows)"
            @written="emit('written', part.key)"
          />
          <small v-if="lost[part.key] && !problems[part.key]" class="bad" role="alert">{{
            lost[part.key]
          }}</small>
        </div>
        <slot name="edge" :band="i" :column="at" />
      </template>
    </BandFrame>
  </template>
  <slot name="end" />
</template>

<style scoped>
.place {
  min-width: 0;
}
.builds {
  position: relative;
  outline: 1px dashed transparent;
  outline-offset: 5px;
}
.builds:hover {
  outline-color: var(--line);
}
.builds.selected {
  outline: 2px solid var(--accent);
}
.grip {
  position: absolute;
  top: -1.1rem;
  left: 0;
  font-size: 0.75rem;
  background: var(--accent);
  color: var(--paper);
  padding: 0 0.4rem;
  opacity: 0;
  z-index: 4;
}
.selected > .grip,
.grip:focus-visible {
  opacity: 1;
}
</style>
