<script setup lang="ts">
import type { Figure, LookTotal } from '@/api/types'
import { format } from '@/fields/fields'
import type { Table } from './table'
import { totalWords } from './words'

/** Totals in words; amounts of several currencies stand side by side. Each opens its proof. */
const props = defineProps<{ figures: Figure[]; table: Table; inGrid?: boolean }>()
const emit = defineEmits<{ prove: [total: LookTotal, event: Event] }>()
const totalOf = (f: Figure): LookTotal => ({ path: f.path, of: f.of, converted: f.converted || undefined })

function shown(f: Figure): string {
  if (!f.values.length) return '–'
  const heading = props.table.headingOf(f.path)
  return f.values.map((v) => format({ ...heading, type: f.type }, v)).join(' + ')
}

/** Amounts that had no rate stand by themselves behind the converted sum. */
const unconverted = (f: Figure) =>
  f.converted && f.values.some((v) => (v as { currency?: string }).currency !== props.table.converts.value)
</script>

<template>
  <span v-for="f in figures" :key="f.path + f.of + f.converted" class="figure">
    <span class="muted">{{ totalWords(totalOf(f), table.headingOf(f.path)) }}</span>
    <button
      type="button"
      class="plain value"
      :tabindex="inGrid ? -1 : undefined"
      title="How it is made"
      @click.stop="emit('prove', totalOf(f), $event)"
    >
      {{ shown(f) }}
    </button>
    <span v-if="unconverted(f)" class="care">! not all has a rate</span>
  </span>
</template>

<style scoped>
.figure {
  margin-left: 0.7rem;
  font-variant-numeric: tabular-nums;
}
.value {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
  margin: 0 0.35rem;
}
</style>
