<script setup lang="ts">
import { ref } from 'vue'
import type { PartView } from '@/api/types'
import { nothing, type Selection } from '../selection'
import type { SurfaceSource } from '../source'
import TablePart from '../TablePart.vue'
import type { Asking } from './asking'
import { useOpening } from './opening'
import OpeningState from './OpeningState.vue'
import { provideNested } from './room'

/** A table that lies in a row of another. */
const props = defineProps<{ part: PartView; source: SurfaceSource; ask: Asking }>()
const chosen = ref<Selection>(nothing())
provideNested()
const opening = useOpening(async () => {
  const rows = await props.ask.rows({})
  return { ...props.part, table: { ...props.part.table!, rows } }
})
</script>

<template>
  <TablePart v-if="opening.found.value" v-model="chosen" :part="opening.found.value" :source="source" />
  <OpeningState v-else :opening="opening" />
</template>
