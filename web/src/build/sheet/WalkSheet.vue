<script setup lang="ts">
import Button from 'primevue/button'
import { computed, nextTick, ref } from 'vue'
import type { Entry, Name, Step, Walkthrough } from '@/api/types'
import { typing } from '@/frame/keys'
import { handing, takesOf } from '../act/handing'
import { useBuild } from '../build'
import { useKnown } from '../conditions/context'
import { drop, put } from '../document'
import { useSheet } from './context'
import NewStep from './NewStep.vue'
import { stepMoves, type Way } from './moving'
import { sheetRows, stepKeys, type SheetRow } from './rows'
import SheetRowView from './SheetRowView.vue'
import StepEditor from './StepEditor.vue'

const props = defineProps<{ walk: Walkthrough; trace: Entry[]; place: string }>()
const emit = defineEmits<{ rehearse: [step: string]; removed: [] }>()
const sheet = useSheet()
const build = useBuild()
const known = useKnown()
const rows = computed(() => sheetRows(props.walk.steps))
const taken = computed(() => stepKeys(props.walk.steps))
const entries = computed(() => new Map(props.trace.map((e) => [e.step, e])))
/** What the searches on screens found when they were last shown. */
const searched = computed(() => {
  const out = new Map<string, Map<string, Entry>>()
  for (const e of props.trace.filter((e) => e.kind === 'search'))
    out.set(e.step, (out.get(e.step) ?? new Map<string, Entry>()).set(e.title, e))
  return out
})
const openStep = ref('')
const cursor = ref('')
const adding = ref<{ siblings: string; index: number; after: string } | null>(null)
const list = ref<HTMLElement | null>(null)

const focused = computed(() =>
  rows.value.some((r) => r.id === cursor.value) ? cursor.value : rows.value[0]?.id,
)

async function focus(id: string): Promise<void> {
  cursor.value = id
  await nextTick()
  list.value?.querySelector<HTMLElement>(`[data-row="${CSS.escape(id)}"]`)?.focus()
}

function toggle(row: SheetRow): void {
  if (row.step) openStep.value = openStep.value === row.id ? '' : row.id
  cursor.value = row.id
}

function addAfter(row: SheetRow): void {
  adding.value = { siblings: row.siblings, index: row.index + 1, after: row.id }
}

/** What is known behind a step: behind a screen what is given on it as well. */
function knownAfter(row: SheetRow | undefined): Name[] {
  if (!row?.step) return known.names(rows.value[0]?.id ?? '')
  return known.names(row.step.screen ? row.id + '!' : row.id)
}

function addFirst(): void {
  adding.value = { siblings: '/steps', index: 0, after: '' }
}

async function make(steps: Step[]): Promise<void> {
  const at = adding.value
  const step = steps[steps.length - 1]
  adding.value = null
  if (!at || !(await sheet.edit(...steps.map((s, i) => put(`${at.siblings}/${at.index + i}`, s))))) return
  // Steps that belong together are complete; one alone is to be said more of.
  openStep.value = steps.length > 1 ? '' : step.key
  await focus(step.key)
  const made = rows.value.find((r) => r.id === step.key)
  const hand =
    step.run && handing(build, known.names(step.key), takesOf(build, 'walkthrough', step.run.walkthrough))
  if (made && hand) await sheet.edit(put(made.pointer + '/run/hand', hand))
}

async function move(row: SheetRow, way: Way): Promise<void> {
  const ops = stepMoves(rows.value, row, way)
  if (!ops.length) return
  // It shows at once. Were the answer waited for, the keyboard might be elsewhere by then.
  void sheet.edit(...ops)
  await focus(row.id)
}

const moves: Record<string, Way> = { ArrowUp: 'up', ArrowDown: 'down', ArrowRight: 'in', ArrowLeft: 'out' }

async function remove(row: SheetRow): Promise<void> {
  if (!row.step) return
  const i = rows.value.findIndex((r) => r.id === row.id)
  const next = rows.value[i + 1]?.id ?? rows.value[i - 1]?.id
  if (!(await sheet.removable(row.pointer, `“${row.step.title || row.step.key}”`))) return
  openStep.value = ''
  const done = sheet.edit(drop(row.pointer))
  if (next) await focus(next)
  if (await done) emit('removed')
}

/** Escape leads from the settings of a step back to its row; what is open in them has the first say. */
function leave(row: SheetRow): void {
  const open =
    '.p-autocomplete-overlay, .p-select-overlay, .p-multiselect-overlay, .p-popover, [role=listbox]'
  if (!document.querySelector(open)) void focus(row.id)
}

function key(event: KeyboardEvent, row: SheetRow): void {
  if (typing(event) || (event.target as HTMLElement).dataset.row === undefined) return
  const i = rows.value.findIndex((r) => r.id === row.id)
  if (event.altKey && moves[event.key]) void move(row, moves[event.key])
  else if (event.key === 'ArrowUp') void focus(rows.value[Math.max(i - 1, 0)].id)
  else if (event.key === 'ArrowDown') void focus(rows.value[Math.min(i + 1, rows.value.length - 1)].id)
  else if (event.key === 'Home') void focus(rows.value[0].id)
  else if (event.key === 'End') void focus(rows.value[rows.value.length - 1].id)
  else if (event.key === 'Enter' && event.shiftKey) addAfter(row)
  else if (event.key === 'Enter') toggle(row)
  else if (event.key === 'Delete') void remove(row)
  else return
  event.preventDefault()
}
</script>

<template>
  <div class="sheet">
    <div class="lanes" aria-hidden="true"><span>Person</span><span>Work</span><span>Records</span></div>
    <div ref="list" role="list" aria-label="Steps">
      <NewStep
        v-if="adding?.after === ''"
        :taken="taken"
        :known="knownAfter(undefined)"
        :walk="walk.key"
        @make="make"
        @cancel="adding = null"
      />
      <p v-if="!rows.length && !adding" class="empty">
        This walkthrough has no steps yet.
        <Button size="small" label="Add the first step" @click="addFirst" />
      </p>
      <div v-for="row in rows" :key="row.id" role="listitem" class="item">
        <div
          class="handle"
          role="button"
          :data-row="row.id"
          :tabindex="row.id === focused ? 0 : -1"
          :aria-expanded="row.step ? openStep === row.id : undefined"
          @click="toggle(row)"
          @focus="cursor = row.id"
          @keydown="key($event, row)"
        >
          <SheetRowView
            :row="row"
            :entry="entries.get(row.id)"
            :searched="searched.get(row.id)"
            :open="openStep === row.id"
            :here="!!row.step && row.id === place.split('/')[0]"
          />
        </div>
        <div class="tools">
          <Button
            text
            size="small"
            label="+ step"
            title="New step after this (Shift Enter)"
            tabindex="-1"
            @click="addAfter(row)"
          />
          <Button
            v-if="row.step"
            text
            size="small"
            label="rehearse to here"
            tabindex="-1"
            @click="emit('rehearse', row.id)"
          />
        </div>
        <StepEditor
          v-if="row.step && openStep === row.id"
          :step="row.step"
          :pointer="row.pointer"
          @remove="remove(row)"
          @keydown.esc.capture="leave(row)"
        />
        <NewStep
          v-if="adding?.after === row.id"
          :taken="taken"
          :known="knownAfter(row)"
          :walk="walk.key"
          @make="make"
          @cancel="adding = null"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.lanes {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr) 8.6rem;
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--paper);
  border-bottom: 1px solid var(--ink);
  font-size: 0.85rem;
  color: var(--muted);
  font-weight: 600;
}
.lanes span {
  padding: 0.3rem 0.8rem;
}
.item {
  position: relative;
  border-bottom: 1px solid var(--line);
}
.handle:focus-visible {
  outline-offset: -2px;
}
.handle:hover {
  background: color-mix(in srgb, var(--tint) 45%, transparent);
}
.tools {
  position: absolute;
  right: 0.2rem;
  top: 0.1rem;
  display: none;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 4px;
}
.item:hover > .tools {
  display: block;
}
.empty {
  padding: 1.4rem 0.8rem;
}
</style>
