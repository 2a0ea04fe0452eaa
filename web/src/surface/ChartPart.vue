<script setup lang="ts">
import ChartView from './chart/ChartView.vue'
import type { Picked } from './chart/series'
import type { PartProps } from './parts'
import { asking } from './table/asking'

/** A chart of a list. */
defineOptions({ inheritAttrs: false })
const props = defineProps<PartProps>()
const held = defineModel<Picked | null>({ default: null })
const ask = asking(
  () => props.source,
  () => props.part.key,
)
</script>

<template>
  <ChartView
    v-model="held"
    :view="part.chart!"
    :label="part.label"
    :ask="ask"
    :open="(id) => source.recordAddress(part.chart!.object, id)"
  />
</template>
