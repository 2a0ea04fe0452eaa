<script setup lang="ts">
import { IconChevronDown, IconChevronUp } from '@tabler/icons-vue'
import { useDebounceFn } from '@vueuse/core'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref, watch } from 'vue'
import { titleOf } from '@/api/client'
import type { Heading, Look, PartView, Ref, RowView } from '@/api/types'
import CellValue from './CellValue.vue'
import { alignment, roomy, unbroken } from './format'
import type { SurfaceSource } from './source'

const props = defineProps<{ part: PartView; source: SurfaceSource; problem?: string }>()
const chosen = defineModel<Ref[]>({ required: true })
const emit = defineEmits<{ go: [] }>()

const table = computed(() => props.part.table!)
const rows = ref<RowView[]>([])
const total = ref(0)
const next = ref('')
const look = ref<Look>({})
const words = ref('')
const failed = ref('')
const busy = ref(false)
const cursor = ref(0)
const body = ref<HTMLElement | null>(null)

watch(
  () => props.part,
  () => {
    rows.value = table.value.rows.rows
    total.value = table.value.rows.total
    next.value = table.value.rows.next ?? ''
    look.value = {}
    words.value = ''
    cursor.value = 0
  },
  { immediate: true },
)

let asked = 0

/** Reads rows; an answer that arrives after a newer question is thrown away. */
async function load(more: boolean): Promise<void> {
  const mine = ++asked
  busy.value = true
  failed.value = ''
  try {
    const page = await props.source.rows(props.part.key, {
      ...look.value,
      after: more ? next.value : undefined,
    })
    if (mine !== asked) return
    rows.value = more ? [...rows.value, ...page.rows] : page.rows
    total.value = page.total
    next.value = page.next ?? ''
    if (!more) cursor.value = 0
  } catch (error) {
    if (mine === asked) failed.value = titleOf(error)
  } finally {
    if (mine === asked) busy.value = false
  }
}

const search = useDebounceFn(() => {
  look.value = { ...look.value, text: words.value }
  void load(false)
}, 200)

const order = computed(() => look.value.order?.[0])

function sortBy(path: string): void {
  const now = order.value
  if (now?.path !== path) look.value = { ...look.value, order: [{ path }] }
  else if (!now.desc) look.value = { ...look.value, order: [{ path, desc: true }] }
  else look.value = { ...look.value, order: undefined }
  void load(false)
}

const ids = computed(() => new Set(chosen.value.map((r) => r.id)))

function choose(row: RowView): void {
  if (table.value.select === 'none') return
  const ref = { id: row.id, label: row.label }
  if (table.value.select === 'one') chosen.value = [ref]
  else if (ids.value.has(row.id)) chosen.value = chosen.value.filter((r) => r.id !== row.id)
  else chosen.value = [...chosen.value, ref]
}

/** Rows that are only read lead to their record, by what stands first in them. */
function opens(row: RowView, first: Heading): string | null {
  const linked = ['reference', 'person', 'file', 'picture', 'web_link', 'email', 'phone'].includes(first.type)
  return table.value.select === 'none' && !linked
    ? props.source.recordAddress(table.value.object, row.id)
    : null
}

const outOfSight = computed(() => {
  const shown = new Set(rows.value.map((r) => r.id))
  return chosen.value.filter((r) => !shown.has(r.id)).length
})

function focusRow(index: number): void {
  cursor.value = Math.min(Math.max(index, 0), rows.value.length - 1)
  body.value?.querySelectorAll<HTMLElement>('tr')[cursor.value]?.focus()
}

function key(event: KeyboardEvent): void {
  const moves: Record<string, number> = {
    ArrowDown: cursor.value + 1,
    ArrowUp: cursor.value - 1,
    PageDown: cursor.value + 10,
    PageUp: cursor.value - 10,
    Home: 0,
    End: rows.value.length - 1,
  }
  const to = moves[event.key]
  if (to !== undefined) focusRow(to)
  else if (event.key === ' ') choose(rows.value[cursor.value])
  else if (event.key === 'Enter' && (event.target as HTMLElement).tagName === 'TR') {
    if (table.value.select === 'one' && !ids.value.has(rows.value[cursor.value].id))
      choose(rows.value[cursor.value])
    else emit('go')
  } else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <div class="part" :aria-invalid="!!problem">
    <div class="head">
      <h2 v-if="part.label" :id="'h-' + part.key">{{ part.label }}</h2>
      <span class="muted" aria-live="polite">{{ total }} {{ total === 1 ? 'record' : 'records' }}</span>
      <span v-if="table.select === 'several' && chosen.length" class="muted">
        · {{ chosen.length }} chosen<template v-if="outOfSight">, {{ outOfSight }} not in view</template>
        <button type="button" class="plain link" @click="chosen = []">clear</button>
      </span>
      <span class="space" />
      <InputText
        v-if="table.keyword?.length"
        v-model="words"
        size="small"
        :placeholder="'Search ' + table.keyword.join(', ').toLowerCase()"
        :aria-label="'Search in ' + (part.label ?? 'the table')"
        @update:model-value="search"
      />
    </div>
    <p v-if="part.lost" class="care" role="status">{{ part.lost }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="scroll" :class="{ busy }">
      <table :aria-labelledby="part.label ? 'h-' + part.key : undefined">
        <thead>
          <tr>
            <th v-if="table.select !== 'none'" class="tick"><span class="visually-hidden">Chosen</span></th>
            <th
              v-for="c in table.columns"
              :key="c.path"
              :style="{ textAlign: alignment(c) }"
              :aria-sort="order?.path === c.path ? (order.desc ? 'descending' : 'ascending') : 'none'"
            >
              <button type="button" class="plain" @click="sortBy(c.path)">
                {{ c.label
                }}<component
                  :is="order.desc ? IconChevronDown : IconChevronUp"
                  v-if="order?.path === c.path"
                  :size="14"
                />
              </button>
            </th>
          </tr>
        </thead>
        <tbody ref="body" @keydown="key">
          <tr
            v-for="(row, i) in rows"
            :key="row.id"
            :tabindex="i === cursor ? 0 : -1"
            :aria-selected="table.select === 'none' ? undefined : ids.has(row.id)"
            :class="{ chosen: ids.has(row.id), pick: table.select !== 'none' }"
            @click="choose(row)"
            @focus="cursor = i"
          >
            <td v-if="table.select !== 'none'" class="tick">
              <input
                :type="table.select === 'one' ? 'radio' : 'checkbox'"
                :checked="ids.has(row.id)"
                tabindex="-1"
                :aria-label="'Choose ' + row.label"
              />
            </td>
            <td
              v-for="(c, n) in table.columns"
              :key="c.path"
              :style="{ textAlign: alignment(c) }"
              :class="{ unbroken: unbroken(c), roomy: roomy(c) }"
            >
              <RouterLink
                v-if="n === 0 && opens(row, c)"
                :to="opens(row, c)!"
                :target="source.beside ? '_blank' : undefined"
              >
                <CellValue :heading="c" :value="row.cells[n]" />
              </RouterLink>
              <CellValue v-else :heading="c" :value="row.cells[n]" :source="source" />
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="!rows.length && !failed" class="nothing">
        <template v-if="look.text">Nothing here has “{{ look.text }}” in it.</template>
        <template v-else>{{ table.nothing || 'There is nothing in this list.' }}</template>
      </p>
      <p v-if="failed" class="bad" role="alert">
        {{ failed }} <button type="button" class="plain link" @click="load(false)">Try again</button>
      </p>
    </div>
    <Button
      v-if="next"
      text
      size="small"
      :loading="busy"
      :label="`Show more (${rows.length} of ${total} shown)`"
      @click="load(true)"
    />
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 0.5rem;
  flex-wrap: wrap;
  margin-bottom: 0.35rem;
}
.space {
  flex: 1;
}
.scroll {
  overflow: auto;
  max-height: 24rem;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  background: var(--panel);
}
.busy {
  opacity: 0.6;
  transition: opacity 0s 0.3s;
}
table {
  width: 100%;
}
th {
  position: sticky;
  top: 0;
  background: var(--panel);
  border-bottom: 1px solid var(--line);
  padding: 0.35rem 0.7rem;
  font-weight: 600;
  white-space: nowrap;
  z-index: 1;
}
th svg {
  vertical-align: -2px;
}
td {
  padding: 0.28rem 0.7rem;
  border-bottom: 1px solid var(--line);
}
tr:last-child td {
  border-bottom: 0;
}
.pick {
  cursor: pointer;
}
.pick:hover {
  background: var(--paper);
}
.chosen,
.chosen:hover {
  background: var(--tint);
}
tr:focus-visible {
  outline-offset: -2px;
}
.tick {
  width: 1.6rem;
  padding-right: 0;
}
.unbroken {
  white-space: nowrap;
}
.roomy {
  min-width: 15rem;
}
.tick input {
  accent-color: var(--accent);
  pointer-events: none;
  margin: 0;
  vertical-align: -1px;
}
.nothing {
  padding: 1rem 0.7rem;
  margin: 0;
  color: var(--muted);
}
</style>
