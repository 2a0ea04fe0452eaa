<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, reactive, watch } from 'vue'
import type { Answers, BandView, Look, PartView, ShippedView } from '@/api/types'
import { fieldTypes } from '@/fields/fields'
import DetailsPart from './DetailsPart.vue'
import InputPart from './InputPart.vue'
import { say } from './sentence'
import SwitchTable from './SwitchTable.vue'
import TablePart from './TablePart.vue'
import { provideAround } from './around'
import { usePlace } from './place'
import { answerOf, type Selection } from './selection'
import { provideRoom } from './table/room'
import type { SurfaceSource } from './source'

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
  select: [part: string]
  written: []
  looked: [part: string, look: Look]
  edited: [part: string, rows: number[]]
  ship: [part: string, view: ShippedView]
}>()
const builds = computed(() => props.selected !== undefined)

const values = reactive<Record<string, unknown>>({})
const chosen = reactive<Record<string, Selection>>({})

function parts(): PartView[] {
  return props.bands.flatMap((b) => b.columns.flatMap((c) => c.parts))
}

/** Where the surface scrolls its tables do not, but for one that is shown alone for a while. */
const { alone } = provideRoom(computed(() => props.within || parts().filter((p) => p.table).length > 1))
const shown = (part: PartView) => !alone.value || part.key === alone.value
watch(
  () => parts().some((p) => p.key === alone.value),
  (there) => !there && (alone.value = ''),
)
// What the person touched stays when the screen is computed anew, after an edit of the
// sheet for example. Another screen is another component.
const touched = new Set<string>()

interface Entered {
  values: Record<string, unknown>
  chosen: Record<string, Selection>
  touched: string[]
  alone: string
}
if (props.place) {
  const now = (): Entered => ({
    values: { ...values },
    chosen: { ...chosen },
    touched: [...touched],
    alone: alone.value,
  })
  const left = usePlace<Entered>(props.place, now)
  left?.touched.forEach((key) => touched.add(key))
  Object.assign(values, left?.values)
  Object.assign(chosen, left?.chosen)
  alone.value = left?.alone ?? ''
}

watch(
  () => props.bands,
  () => {
    for (const key of Object.keys(values)) if (!touched.has(key)) delete values[key]
    for (const key of Object.keys(chosen)) if (!touched.has(key)) delete chosen[key]
    for (const p of parts()) {
      if (p.kind === 'input' && !(p.key in values)) values[p.key] = p.value ?? null
      if (p.table && !(p.key in chosen)) chosen[p.key] = { rows: p.table.chosen, all: null }
    }
  },
  { immediate: true },
)

/** What is typed is told after a pause, what is chosen at once. */
const typed = useDebounceFn((part: string) => emit('changed', part), 300)

function touch(part: PartView): void {
  touched.add(part.key)
  if (part.input && !fieldTypes[part.input.type].picked) void typed(part.key)
  else emit('changed', part.key)
}

provideAround(
  (key, value) => {
    const part = parts().find((p) => p.key === key)
    values[key] = value
    if (part) {
      touched.add(key)
      emit('changed', key)
    }
  },
  () => emit('written'),
)

/** What the person gave, by part, as it is sent. */
function answers(): Answers {
  const out: Answers = {}
  for (const p of parts()) {
    if (p.kind === 'input') out[p.key] = values[p.key] ?? null
    else if (p.table && p.table.select !== 'none') out[p.key] = answerOf(chosen[p.key], p.table.select)
  }
  return out
}
defineExpose({ answers })
</script>

<template>
  <section
    v-for="(band, i) in bands"
    v-show="!alone || band.columns.some((c) => c.parts.some(shown))"
    :key="i"
    class="band"
  >
    <h2 v-if="band.title && !alone">{{ band.title }}</h2>
    <div class="columns" :style="{ '--columns': alone ? 1 : band.columns.length }">
      <div
        v-for="(column, j) in band.columns"
        v-show="!alone || column.parts.some(shown)"
        :key="j"
        class="column"
      >
        <div
          v-for="part in column.parts"
          v-show="shown(part)"
          :key="part.key"
          class="place"
          :class="{ builds, selected: builds && selected === part.key }"
          @focusin="builds && emit('select', part.key)"
          @click="builds && emit('select', part.key)"
        >
          <button v-if="builds" type="button" class="plain grip" @click="emit('select', part.key)">
            {{ part.label || part.kind }}
          </button>
          <InputPart
            v-if="part.kind === 'input'"
            v-model="values[part.key]"
            :part="part"
            :source="source"
            :problem="problems[part.key]"
            @update:model-value="touch(part)"
          />
          <component
            :is="part.table.others?.length ? SwitchTable : TablePart"
            v-else-if="part.table"
            v-model="chosen[part.key]"
            :part="part"
            :source="source"
            :problem="problems[part.key]"
            :ships="ships"
            @update:model-value="touch(part)"
            @go="emit('go')"
            @ship="(view: ShippedView) => emit('ship', part.key, view)"
            @looked="(look: Look) => emit('looked', part.key, look)"
            @edited="(rows: number[]) => emit('edited', part.key, rows)"
            @written="emit('written')"
          />
          <DetailsPart
            v-else-if="part.details"
            :label="part.label"
            :details="part.details"
            :source="source"
          />
          <p v-else class="text">{{ say(part.text) }}</p>
        </div>
        <slot name="edge" :band="i" :column="j" />
      </div>
    </div>
  </section>
  <slot name="end" />
</template>

<style scoped>
.band {
  container-type: inline-size;
  margin-bottom: 1.4rem;
}
.columns {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
  gap: 1.5rem;
}
.column {
  display: flex;
  flex-direction: column;
  gap: 1.1rem;
  min-width: 0;
}
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
.text {
  margin: 0;
  white-space: pre-line;
}
@container (max-width: 34rem) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
