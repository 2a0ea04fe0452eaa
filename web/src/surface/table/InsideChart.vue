<script setup lang="ts">
import { computed } from 'vue'
import type { Bars, ChartPartView, PartView } from '@/api/types'
import ChartView from '../chart/ChartView.vue'
import type { SurfaceSource } from '../source'
import type { Asking } from './asking'
import { useOpening } from './opening'
import OpeningState from './OpeningState.vue'

/** The records that a row opens to, with a bar for each group. */
const props = defineProps<{ part: PartView; bars: Bars; source: SurfaceSource; ask: Asking }>()
const look = computed(() => {
  const { by, total } = props.bars
  return { group: by, totals: total ? [total] : [] }
})

const opening = useOpening(async () => {
  const { by, total } = props.bars
  const paths = [by, total].flatMap((o) => (o ? [o.path] : []))
  const through = new Set(paths.map((p) => p.split('.').slice(0, -1).join('.')))
  const [groups, ...fields] = await Promise.all([
    props.ask.groups(look.value),
    ...[...through].map((t) => props.ask.fields(t)),
  ])
  return { groups, headings: fields.flatMap((f) => f.fields).filter((h) => paths.includes(h.path)) }
})
const view = computed<ChartPartView | null>(() => {
  const found = opening.found.value
  if (!found) return null
  const charted = { ...found.groups, keys: found.groups.groups.map((g) => g.key) }
  const { object } = props.part.table!
  return { object, drawn: 'bars', look: look.value, headings: found.headings, charted }
})
</script>

<template>
  <OpeningState v-if="!view" :opening="opening" />
  <ChartView
    v-else
    :view="view"
    :label="part.label"
    :ask="ask"
    :open="(id) => source.recordAddress(view!.object, id)"
  />
</template>
