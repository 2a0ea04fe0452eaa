<script setup lang="ts">
import type { Figure } from '@/api/types'
import { format } from '../format'
import type { Table } from './table'
import { totalWords } from './words'

/** Totals in words; amounts of several currencies stand side by side. */
const props = defineProps<{ figures: Figure[]; table: Table }>()

function shown(f: Figure): string {
  if (!f.values.length) return '–'
  const heading = props.table.headingOf(f.path)
  return f.values.map((v) => format({ ...heading, type: f.type }, v)).join(' + ')
}
</script>

<template>
  <span v-for="f in figures" :key="f.path + f.of" class="figure">
    <span class="muted">{{ totalWords({ path: f.path, of: f.of }, table.headingOf(f.path)) }}</span>
    {{ shown(f) }}
  </span>
</template>

<style scoped>
.figure {
  margin-left: 0.7rem;
  font-variant-numeric: tabular-nums;
}
</style>
