<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import ValueInput from '@/fields/ValueInput.vue'
import RemoveButton from '@/frame/RemoveButton.vue'
import { isGiven } from './table/asked'
import type { PartProps } from './parts'

/** Rows that a person types in. There is always an empty one below those that are filled in. */
const props = defineProps<PartProps>()
const held = defineModel<unknown>({ required: true })
type Row = Record<string, unknown>
const entries = computed(() => props.part.entries!)
const rows = computed<Row[]>(() => (Array.isArray(held.value) ? (held.value as Row[]) : []))
const full = computed(() => !!entries.value.most && rows.value.length >= entries.value.most)
const shown = computed<Row[]>(() => (full.value ? rows.value : [...rows.value, {}]))
const id = computed(() => 'in-' + props.part.key)
const table = ref<HTMLElement | null>(null)

function set(at: number, key: string, value: unknown): void {
  const row = { ...shown.value[at], [key]: isGiven(value) ? value : null }
  if (at === rows.value.length && !isGiven(value)) return
  held.value = at < rows.value.length ? rows.value.map((r, i) => (i === at ? row : r)) : [...rows.value, row]
}

async function remove(at: number): Promise<void> {
  held.value = rows.value.filter((_, i) => i !== at)
  await nextTick()
  focus(Math.min(at, rows.value.length), entries.value.ask[0].key)
}

function focus(row: number, key: string): void {
  table.value?.querySelector<HTMLInputElement>(`[data-entry="${row}.${key}"] input`)?.focus()
}

/** Enter and the arrows lead to the same column of the row below or above. */
function key(event: KeyboardEvent, row: number, column: string): void {
  const step = { ArrowDown: 1, ArrowUp: -1, Enter: 1 }[event.key]
  if (!step || (event.target as HTMLElement).closest('[role=combobox]')) return
  event.preventDefault()
  event.stopPropagation()
  focus(row + step, column)
}
</script>

<template>
  <section :aria-invalid="!!problem">
    <h2 v-if="part.label" :id="'h-' + part.key">{{ part.label }}</h2>
    <div class="wide">
      <table ref="table" :aria-labelledby="part.label ? 'h-' + part.key : undefined">
        <thead>
          <tr>
            <th v-for="a in entries.ask" :key="a.key" scope="col">
              {{ a.label }}<span v-if="!a.required" class="muted"> (optional)</span>
            </th>
            <th><span class="visually-hidden">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in shown" :key="i">
            <td
              v-for="a in entries.ask"
              :key="a.key"
              :data-entry="`${i}.${a.key}`"
              @keydown="key($event, i, a.key)"
            >
              <ValueInput
                :id="`${id}-${i}-${a.key}`"
                :model-value="row[a.key] ?? null"
                :type="a.type"
                :label="`${a.label}, row ${i + 1}`"
                @update:model-value="set(i, a.key, $event)"
              />
            </td>
            <td>
              <RemoveButton v-if="i < rows.length" :label="`Remove row ${i + 1}`" @press="remove(i)" />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <small v-if="entries.help" class="muted">{{ entries.help }}</small>
    <small v-if="problem" class="bad" role="alert">{{ problem }}</small>
  </section>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
}
th {
  text-align: left;
  padding: 0.2rem 0.5rem 0.2rem 0;
}
td {
  padding: 0.15rem 0.5rem 0.15rem 0;
  vertical-align: top;
}
small {
  display: block;
}
</style>
