<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, shallowRef, ref } from 'vue'
import { titleOf } from '@/api/client'
import type { PartView, RowView } from '@/api/types'
import { nothing } from '../selection'
import type { SurfaceSource } from '../source'
import { asking } from './asking'

// A table that lies in a table that lies in a table …
const TablePart = defineAsyncComponent(() => import('../TablePart.vue'))

/** What a row opens to: a table of its own. */
const props = defineProps<{ inside: PartView; row: RowView; source: SurfaceSource }>()
const emit = defineEmits<{ ready: [] }>()

const source = computed<SurfaceSource>(() => ({
  ...props.source,
  at: (part) => {
    const outer = props.source.at(part)
    return { ...outer, inside: [...(outer.inside ?? []), props.row.id] }
  },
}))
const ask = asking(
  () => source.value,
  () => props.inside.key,
)
const part = shallowRef<PartView | null>(null)
const failed = ref('')

async function load(): Promise<void> {
  failed.value = ''
  try {
    const rows = await ask.rows({})
    part.value = { ...props.inside, table: { ...props.inside.table!, rows } }
    emit('ready')
  } catch (error) {
    failed.value = titleOf(error)
  }
}
onMounted(load)
</script>

<template>
  <div class="nested" @keydown.stop>
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="load">Try again</button>
    </p>
    <TablePart v-else-if="part" :part="part" :source="source" :model-value="nothing()" />
    <p v-else class="muted">Opening …</p>
  </div>
</template>

<style scoped>
.nested {
  padding: 0.5rem 0.6rem 0.9rem 1.8rem;
  border-left: 2px solid var(--accent);
  --table-height: 18rem;
  position: sticky;
  left: 0;
  max-width: var(--nested-width);
  box-sizing: border-box;
}
</style>
