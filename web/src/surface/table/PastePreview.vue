<script setup lang="ts">
import Button from 'primevue/button'
import Dialog from 'primevue/dialog'
import { computed } from 'vue'
import { format } from '@/fields/fields'
import type { PastedCell, Pasting } from './pasting'

/** What pasting a block would change, before it does. */
const props = defineProps<{ pasting: Pasting }>()
const emit = defineEmits<{ take: [cells: PastedCell[]]; close: [] }>()

const most = 200
const same = (c: PastedCell) => format(c.heading, c.before) === format(c.heading, c.value)
const wrong = computed(() => props.pasting.cells.filter((c) => c.problem && c.text))
const changes = computed(() => props.pasting.cells.filter((c) => !c.problem && !same(c)))
const rows = computed(() => new Set(changes.value.map((c) => c.row.id)).size)
const plural = (n: number, one: string) => `${n.toLocaleString()} ${one}${n === 1 ? '' : 's'}`
</script>

<template>
  <Dialog
    visible
    modal
    header="What pasting changes"
    :style="{ width: '44rem' }"
    @update:visible="emit('close')"
  >
    <p>
      {{ plural(changes.length, 'cell') }} in {{ plural(rows, 'row') }} would change.
      <template v-if="pasting.leftRows || pasting.leftColumns">
        {{ plural(pasting.leftRows, 'row') }} and {{ plural(pasting.leftColumns, 'column') }} of the block
        have no place here and are left out.
      </template>
    </p>
    <template v-if="wrong.length">
      <p class="bad">{{ plural(wrong.length, 'cell') }} cannot be taken and would stay as they are:</p>
      <ul>
        <li v-for="(c, i) in wrong.slice(0, most)" :key="i">
          {{ c.row.label }} · {{ c.heading.label }}: “{{ c.text }}” – {{ c.problem }}
        </li>
      </ul>
    </template>
    <table v-if="changes.length">
      <thead>
        <tr>
          <th>Row</th>
          <th>Column</th>
          <th>Is</th>
          <th>Would be</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(c, i) in changes.slice(0, most)" :key="i">
          <td>{{ c.row.label }}</td>
          <td>{{ c.heading.label }}</td>
          <td class="muted">{{ format(c.heading, c.before) || 'empty' }}</td>
          <td>{{ format(c.heading, c.value) || 'empty' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="changes.length > most" class="muted">… and {{ plural(changes.length - most, 'more cell') }}.</p>
    <template #footer>
      <Button text label="Leave it" @click="emit('close')" />
      <Button
        :label="changes.length ? `Change ${plural(changes.length, 'cell')}` : 'Nothing changes'"
        :disabled="!changes.length"
        autofocus
        @click="emit('take', changes)"
      />
    </template>
  </Dialog>
</template>

<style scoped>
p {
  margin: 0 0 0.5rem;
}
ul {
  max-height: 9rem;
  overflow: auto;
  padding-left: 1.1rem;
  margin: 0 0 0.6rem;
}
table {
  width: 100%;
}
th {
  text-align: left;
  border-bottom: 1px solid var(--line);
}
td,
th {
  padding: 0.2rem 0.6rem 0.2rem 0;
}
</style>
