<script setup lang="ts">
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import { computed, onMounted, ref, watch } from 'vue'
import { api, given } from '@/api/client'
import type { Condition, Name, Right, Rights, Role } from '@/api/types'
import { useBuild } from './build'
import { provideKnown } from './conditions/context'
import { asks } from './conditions/unfinished'
import WhereEditor from './conditions/WhereEditor.vue'
import { changes, drop, put, useDocument } from './document'
import ReadFailed from './ReadFailed.vue'
import FieldRights from './people/FieldRights.vue'
import { provideSheet } from './sheet/context'
import FindingNote from './sheet/FindingNote.vue'
import TextSlot from './sheet/TextSlot.vue'
import { conditionLines } from './words'
import { useTakingAway } from './taking'
import { useUndoKeys } from './undo'
import SavedState from './SavedState.vue'

const props = defineProps<{ name: string }>()
const build = useBuild()
const doc = useDocument<Role>('role', () => props.name)
const rights = ref<Rights | null>(null)
const open = ref('')
const findings = computed(() => doc.view.value?.findings ?? [])
const rows = computed(() => {
  const all = doc.body.value?.objects ?? {}
  const people = build.object('person')
  return [...build.own, ...(people ? [people] : [])].map((object) => ({
    object,
    right: (all[object.key] ?? {}) as Right,
    // A role need say nothing of people, which is not the same as that they are not seen.
    usual: object.key === 'person' && !all.person,
  }))
})
const people = computed(() => build.contents?.people.filter((p) => p.roles?.includes(props.name)) ?? [])
const column = computed(() => rights.value?.roles.findIndex((r) => r.key === props.name) ?? -1)
const verbs = ['see', 'add', 'change', 'remove'] as const

// What a row rule may know of the person.
const names = computed<Name[]>(() => [
  {
    key: 'person',
    label: 'The person',
    type: {
      kind: 'screen',
      answers: [
        {
          key: 'organisation',
          label: 'the person’s organisation',
          type: { kind: 'record', object: build.contents?.organisation },
        },
        { key: 'record', label: 'the person', type: { kind: 'record', object: 'person' } },
        { key: 'name', label: 'the person’s name', type: { kind: 'text' } },
        { key: 'email', label: 'the person’s e-mail', type: { kind: 'text' } },
      ],
    },
  },
  { key: 'today', label: 'Today', type: { kind: 'date' } },
])
provideKnown({ names: () => names.value, samples: ref({}) })
provideSheet({
  edit: doc.edit,
  rename: doc.rename,
  removable: doc.removable,
  body: () => doc.body.value,
  findings,
  steps: ref([]),
})

async function count(): Promise<void> {
  rights.value = await given(api.GET('/build/rights'))
}
onMounted(doc.load)
watch(() => doc.view.value?.revision, count)

function sees(object: string): string {
  const row = rights.value?.objects.find((o) => o.object === object)
  const cell = row?.cells[column.value]
  if (!row || !cell?.see) return ''
  return cell.sees === row.total ? `all ${row.total}` : `${cell.sees} of ${row.total}`
}

/** Rights nobody has any more are taken out; the rest change member by member. */
function change(object: string, some: Partial<Right>): void {
  const before = doc.body.value?.objects[object]
  const next: Partial<Right> = { ...before, ...some }
  for (const key of Object.keys(next) as (keyof Right)[]) if (!next[key]) delete next[key]
  if (next.fields && !Object.keys(next.fields).length) delete next.fields
  if (!Object.keys(next).length) {
    if (before) void doc.edit(drop('/objects/' + object))
    return
  }
  if (!before) void doc.edit(put('/objects/' + object, next))
  else void doc.edit(...changes('/objects/' + object, before, next))
}

/** Who may not see records can do nothing else with them. */
function toggle(object: string, verb: (typeof verbs)[number], on: boolean): void {
  if (verb === 'see' && !on)
    change(object, {
      see: false,
      add: false,
      change: false,
      remove: false,
      rows: undefined,
      fields: undefined,
    })
  else change(object, { [verb]: on, ...(on ? { see: true } : {}) })
}

function setRows(object: string, rows: Condition): void {
  change(object, { rows: asks(rows) ? rows : undefined })
}

const takeAway = useTakingAway('role', () => props.name)
useUndoKeys(doc)
</script>

<template>
  <main v-if="doc.body.value" class="page">
    <h1 class="visually-hidden">{{ doc.body.value.label }}</h1>
    <div class="row">
      <TextSlot
        :model-value="doc.body.value.label"
        label="Name of the role"
        class="label"
        @update:model-value="doc.edit(put('/label', $event))"
      />
      <SavedState :doc="doc" />
      <RouterLink to="/build/people">People and all roles</RouterLink>
      <Button text size="small" severity="danger" label="Remove…" @click="takeAway(doc.body.value.label)" />
    </div>
    <p class="muted">
      {{
        people.length
          ? people.map((p) => p.name).join(', ') + (people.length > 1 ? ' have it.' : ' has it.')
          : 'Nobody has this role in trial.'
      }}
      <template v-if="rights?.roles[column]?.as">Counted for {{ rights.roles[column].as }}.</template>
    </p>
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
    <table>
      <thead>
        <tr>
          <th>Object</th>
          <th v-for="v in verbs" :key="v" class="mark">{{ v }}</th>
          <th class="mark">Sees</th>
          <th>Which records</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="r in rows" :key="r.object.key">
          <tr :class="{ muted: !r.right.see }">
            <td>{{ r.object.plural }}</td>
            <td v-for="v in verbs" :key="v" class="mark">
              <Checkbox
                v-if="v === 'see' || r.object.key !== 'person'"
                :model-value="!!r.right[v]"
                :indeterminate="r.usual"
                binary
                :aria-label="v + ' ' + r.object.plural"
                @update:model-value="toggle(r.object.key, v, $event)"
              />
            </td>
            <td class="mark figure">{{ sees(r.object.key) }}</td>
            <td>
              <span v-if="r.usual" class="muted">
                not said: the company’s own people see everybody, others those of their organisation and whom
                records name that they see
              </span>
              <button
                v-if="r.right.see"
                type="button"
                class="plain link"
                :aria-expanded="open === r.object.key"
                @click="open = open === r.object.key ? '' : r.object.key"
              >
                {{
                  r.right.rows
                    ? conditionLines(build, names, r.object.key, r.right.rows).join(' and ')
                    : 'all'
                }}
              </button>
              <span v-if="r.right.fields" class="muted">
                · {{ Object.keys(r.right.fields).length }} fields less</span
              >
            </td>
          </tr>
          <tr v-if="open === r.object.key">
            <td colspan="7">
              <div class="settings">
                <p>Only {{ r.object.plural.toLowerCase() }} are theirs for which</p>
                <WhereEditor
                  :model-value="r.right.rows ?? { all: [] }"
                  :place="r.object.key"
                  :object="r.object.key"
                  @update:model-value="setRows(r.object.key, $event)"
                />
                <FieldRights
                  :object="r.object"
                  :fields="r.right.fields ?? {}"
                  @change="change(r.object.key, { fields: $event })"
                />
              </div>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
  </main>
  <ReadFailed v-else-if="doc.failed.value" :words="doc.failed.value" @again="doc.load()" />
</template>

<style scoped>
.page {
  max-width: 66rem;
  padding: 1.2rem 1.6rem 3rem;
}
.label {
  font-weight: 650;
}
table {
  width: 100%;
  margin-top: 0.6rem;
}
th {
  text-align: left;
  color: var(--muted);
  font-weight: 600;
}
th,
td {
  border-bottom: 1px solid var(--line);
  padding: 0.3rem 1rem 0.3rem 0;
}
.mark {
  width: 4.2rem;
}
.figure {
  white-space: nowrap;
}
.settings {
  border-left: 3px solid var(--accent);
  background: var(--panel);
  padding: 0.6rem 0.8rem;
}
.settings p {
  margin: 0 0 0.4rem;
}
</style>
