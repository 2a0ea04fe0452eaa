<script setup lang="ts">
import Button from 'primevue/button'
import type { Heading } from '@/api/types'
import { format } from '@/fields/fields'
import type { Edits } from './edits'
import type { Table } from './table'

/** What was changed in cells and not saved yet. */
const props = defineProps<{ edits: Edits; table: Table }>()
const empty = (text: string) => text || 'nothing'
const shown = (h: Heading | undefined, v: unknown) => empty(h ? format(h, v) : String(v ?? ''))

function clashes() {
  return [...props.edits.outcomes.value.values()].flatMap((o) =>
    (o.clashes ?? []).map((c) => ({ id: o.id, ...c, heading: props.table.headingOf(c.field) })),
  )
}
const of = (id: number) => props.edits.rows.value.get(id)
</script>

<template>
  <div v-if="edits.count.value" class="save" role="status">
    <p v-if="edits.failed.value" class="bad" role="alert">{{ edits.failed.value }}</p>
    <p v-if="edits.told.value" class="good">{{ edits.told.value }}</p>
    <p v-for="c in clashes()" :key="c.id + c.field" class="care">
      {{ of(c.id)?.row.label }}: somebody else set {{ c.label }} to “{{ shown(c.heading, c.theirs) }}”
      meanwhile; yours is “{{ shown(c.heading, of(c.id)?.values[c.field]) }}”.
      <button type="button" class="plain link" @click="edits.settle(c.id, c.field, c.theirs, false)">
        Take theirs
      </button>
      <button type="button" class="plain link" @click="edits.settle(c.id, c.field, c.theirs, true)">
        Keep mine
      </button>
    </p>
    <div class="row">
      <strong
        >{{ edits.count.value }} {{ edits.count.value === 1 ? 'row' : 'rows' }} changed, not saved yet</strong
      >
      <Button size="small" label="Save" :loading="edits.saving.value" @click="edits.save()" />
      <Button size="small" text label="Undo" @click="edits.undo()" />
      <Button size="small" text severity="secondary" label="Take all back" @click="edits.clear()" />
      <span class="muted">Ctrl+S saves, Ctrl+Z undoes.</span>
    </div>
  </div>
</template>

<style scoped>
.save {
  background: var(--tint);
  padding: 0.4rem 0.7rem;
  border-bottom: 1px solid var(--line);
}
p {
  margin: 0 0 0.3rem;
}
.care .link {
  margin-left: 0.5rem;
}
</style>
