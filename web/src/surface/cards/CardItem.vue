<script setup lang="ts">
import { computed } from 'vue'
import type { CardSourceView, CardView } from '@/api/types'
import CellValue from '@/fields/CellValue.vue'
import { format } from '@/fields/fields'
import type { SurfaceSource } from '../source'

/** A record as its face shows it. Pressing its heading opens it, or does what the face says. */
const props = defineProps<{
  card: CardView
  of: CardSourceView
  source: SurfaceSource
  /** Cards of several lists say which one they are of. */
  several: boolean
  holds: string
}>()
const emit = defineEmits<{ press: [] }>()
const face = computed(() => props.of.faces[props.card.face])
const picture = computed(() => face.value.picture ?? undefined)
const address = computed(() => props.source.recordAddress(props.of.object, props.card.id))
const target = computed(() => (props.source.beside ? '_blank' : undefined))

const filled = (column: number) => {
  const cell = props.card.cells[column]
  return cell !== null && cell !== undefined && cell !== ''
}
const lines = computed(() => face.value.lines.filter((l) => filled(l.column)))
const marks = computed(() => face.value.marks.filter(filled))
const when = computed(() => {
  const { by, columns } = props.of
  return filled(by) ? format(columns[by], props.card.cells[by]) : ''
})
</script>

<template>
  <div class="card">
    <span v-if="picture !== undefined" class="picture">
      <CellValue v-if="filled(picture)" :heading="of.columns[picture]" :value="card.cells[picture]" />
    </span>
    <div class="says">
      <span class="of muted">
        <span v-if="several">{{ of.label }}</span>
        <time :title="of.columns[of.by].label">{{ when }}</time>
      </span>
      <strong class="head">
        <button v-if="face.press" type="button" class="plain link open" @click="emit('press')">
          <CellValue :heading="of.columns[face.heading]" :value="card.cells[face.heading]" />
        </button>
        <RouterLink v-else-if="address" :to="address" :target="target" class="open">{{
          format(of.columns[face.heading], card.cells[face.heading]) || card.label
        }}</RouterLink>
        <CellValue v-else :heading="of.columns[face.heading]" :value="card.cells[face.heading]" />
      </strong>
      <span v-if="holds" class="muted" role="status">{{ holds }}</span>
      <span v-for="l in lines" :key="l.column" class="line"
        ><span class="muted">{{ l.label || of.columns[l.column].label }}</span
        >&ensp;<CellValue :heading="of.columns[l.column]" :value="card.cells[l.column]" :source="source"
      /></span>
      <span v-if="marks.length" class="marks">
        <CellValue v-for="m in marks" :key="m" :heading="of.columns[m]" :value="card.cells[m]" />
      </span>
    </div>
  </div>
</template>

<style scoped>
.card {
  display: flex;
  gap: 0.8rem;
  min-width: 0;
}
.picture {
  flex: 0 0 3.2rem;
}
.picture :deep(img) {
  max-width: 3.2rem;
  max-height: 3.2rem;
  object-fit: cover;
}
.says {
  display: flex;
  flex-direction: column;
  gap: 0.1rem;
  min-width: 0;
  flex: 1;
}
.of {
  display: flex;
  justify-content: space-between;
  gap: 0.8rem;
  font-size: 0.85rem;
}
time {
  white-space: nowrap;
  margin-left: auto;
}
.head,
.line {
  overflow-wrap: anywhere;
}
.open {
  text-align: left;
  font-weight: inherit;
}
.marks {
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.8rem;
}
</style>
