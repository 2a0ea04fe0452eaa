<script setup lang="ts">
import type { PartView } from '@/api/types'
import CellValue from '@/fields/CellValue.vue'
import type { SurfaceSource } from './source'

defineOptions({ inheritAttrs: false })
defineProps<{ part: Pick<PartView, 'label' | 'details'>; source: SurfaceSource }>()
</script>

<template>
  <section>
    <h2 v-if="part.label">{{ part.label }}</h2>
    <dl>
      <template v-for="d in part.details" :key="d.heading.path">
        <dt>{{ d.heading.label }}</dt>
        <dd>
          <CellValue v-if="d.value !== null" :heading="d.heading" :value="d.value" :source="source" />
          <span v-else class="muted">—</span>
        </dd>
      </template>
    </dl>
  </section>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: minmax(8rem, max-content) 1fr;
  gap: 0.3rem 1.4rem;
  margin: 0.5rem 0 0;
}
dt {
  color: var(--muted);
}
dd {
  --picture: 72px;
  margin: 0;
  white-space: pre-line;
  font-variant-numeric: tabular-nums;
}
</style>
