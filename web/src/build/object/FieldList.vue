<script setup lang="ts">
import { IconGripVertical } from '@tabler/icons-vue'
import { ref } from 'vue'
import type { FieldDef, FieldProfile, ObjectDef, ProfileView } from '@/api/types'
import { target, useBuild } from '../build'
import { conditionLines } from '../words'
import type { Name } from '@/api/types'
import { format, typeWords } from '@/fields/fields'

/** One row a field: name, type, rules, and what is stored in it. */
const props = defineProps<{ object: ObjectDef; profile: ProfileView | null; open: string; names: Name[] }>()
const emit = defineEmits<{ open: [key: string]; move: [from: number, to: number] }>()
const build = useBuild()
const dragged = ref(-1)
const yesNo: Record<string, string> = { true: 'Yes', false: 'No' }

const stored = (f: FieldDef): FieldProfile | undefined => props.profile?.fields.find((p) => p.field === f.key)

function share(f: FieldDef): string {
  const p = stored(f)
  if (!p) return props.profile?.working ? '…' : ''
  if (!props.profile?.records) return '–'
  const n = Math.round((p.filled / props.profile.records) * 100)
  return (n === 100 && p.filled < props.profile.records ? 99 : n === 0 && p.filled > 0 ? 1 : n) + ' %'
}

/** Days and times as tables show them. */
function said(f: FieldDef, text: string): string {
  const type = f.type === 'worked_out' ? f.result! : f.type
  return type === 'date' || type === 'date_time' ? format({ type }, text) : text
}

function span(f: FieldDef): string {
  const p = stored(f)
  if (!p?.least) return ''
  const [least, greatest] = [said(f, p.least), said(f, p.greatest ?? '')]
  return least === greatest ? least : `${least} … ${greatest}`
}

function samples(f: FieldDef): string {
  return (stored(f)?.samples ?? [])
    .map((s) => f.choices?.find((c) => c.key === s)?.label ?? yesNo[s] ?? (f.prefix ?? '') + said(f, s))
    .join(' · ')
}

function rules(f: FieldDef): string {
  return [
    f.key === props.object.label_field && 'stands for the record',
    f.required && 'required',
    f.unique && 'unique',
    f.least !== undefined && 'at least ' + f.least,
    f.most !== undefined && 'at most ' + f.most,
    f.candidates && 'narrowed by a rule',
  ]
    .filter(Boolean)
    .join(' · ')
}

/** A candidate rule in words. */
function narrowed(f: FieldDef): string | undefined {
  return f.candidates && conditionLines(build, props.names, target(f)!, f.candidates).join(' and ')
}

function key(event: KeyboardEvent, i: number): void {
  const rows = (event.currentTarget as HTMLElement).parentElement!.querySelectorAll<HTMLElement>(
    '[data-field]',
  )
  const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (event.target !== event.currentTarget) return
  if (by && event.altKey) {
    if (i + by >= 0 && i + by < props.object.fields.length) emit('move', i, i + by)
  } else if (by) rows[i + by]?.focus()
  else if (event.key === 'Enter' || event.key === ' ') emit('open', props.object.fields[i].key)
  else return
  event.preventDefault()
}

function dropped(to: number): void {
  if (dragged.value >= 0 && dragged.value !== to) emit('move', dragged.value, to)
  dragged.value = -1
}
</script>

<template>
  <table>
    <thead>
      <tr>
        <th>Field</th>
        <th>Type</th>
        <th>Rules</th>
        <th class="num">Filled</th>
        <th class="num">Distinct</th>
        <th>Least … greatest</th>
        <th>Samples</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="(f, i) in object.fields" :key="f.key">
        <tr
          tabindex="0"
          :data-field="f.key"
          :class="{ open: open === f.key, over: dragged >= 0 }"
          title="Enter opens, Alt with an arrow moves"
          @click="emit('open', f.key)"
          @keydown="key($event, i)"
          @dragover.prevent
          @drop="dropped(i)"
        >
          <td class="name">
            <span
              draggable="true"
              class="grip"
              aria-hidden="true"
              @dragstart="dragged = i"
              @dragend="dragged = -1"
              ><IconGripVertical :size="13" /></span
            ><button type="button" class="plain" tabindex="-1" :aria-expanded="open === f.key">
              {{ f.label }}
            </button>
          </td>
          <td>
            {{ typeWords(f.type) }}
            <RouterLink v-if="f.object" :to="'/build/object/' + f.object" @click.stop>{{
              build.object(f.object)?.label
            }}</RouterLink>
            <code v-if="f.expression">{{ f.expression }}</code>
          </td>
          <td class="muted rules" :title="narrowed(f)">{{ rules(f) }}</td>
          <td class="num">{{ share(f) }}</td>
          <td class="num">{{ stored(f)?.distinct ?? '' }}</td>
          <td class="clip" :title="span(f)">{{ span(f) }}</td>
          <td class="clip muted" :title="samples(f)">{{ samples(f) }}</td>
        </tr>
        <tr v-if="open === f.key">
          <td colspan="7" class="inside"><slot :field="f" :index="i" /></td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
  table-layout: fixed;
}
th {
  text-align: left;
  color: var(--muted);
  font-weight: 600;
  font-size: 0.9rem;
}
th,
td {
  border-bottom: 1px solid var(--line);
  padding: 0.32rem 0.6rem 0.32rem 0;
  vertical-align: top;
  overflow-wrap: break-word;
}
th:nth-child(1) {
  width: 19%;
}
th:nth-child(2) {
  width: 17%;
}
th:nth-child(4),
th:nth-child(5) {
  width: 4.2rem;
}
th:nth-child(6),
th:nth-child(7) {
  width: 16%;
}
.num {
  text-align: right;
}
tr[data-field] {
  cursor: pointer;
}
tr[data-field]:hover {
  background: var(--panel);
}
.open td {
  border-bottom: 0;
}
.open .name {
  font-weight: 650;
}
.name button {
  display: inline;
}
.name {
  white-space: normal;
  padding-left: 1rem;
  text-indent: -1rem;
}
.grip {
  color: var(--line);
  cursor: grab;
  margin-right: 0.15rem;
}
tr:hover .grip {
  color: var(--muted);
}
.clip {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 0.9rem;
}
.rules {
  font-size: 0.9rem;
}
.inside {
  padding: 0 0 0.6rem;
}
code {
  display: block;
  font-size: 0.8rem;
}
</style>
