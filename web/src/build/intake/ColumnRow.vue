<script setup lang="ts">
import { type FieldType, typesWhere, partsOf, typeWords } from '@/fields/fields'
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import Select from 'primevue/select'
import { computed } from 'vue'
import type {
  ColumnPlan,
  ColumnWish,
  FieldDef,
  FoundSheet,
  Intake,
  IntakeColumn,
  IntakePlan,
  SheetPlan,
} from '@/api/types'
import { target as targetOf, useBuild } from '../build'
import TextSlot from '../sheet/TextSlot.vue'
import { readingKey, readingOptions, readingWords, type ReadingOption } from './readings'

/** One column: the field it goes into, how its cells are read, and what speaks for that. */
const props = defineProps<{
  column: ColumnPlan
  found: IntakeColumn
  match?: NonNullable<FoundSheet['matches']>[string]
  sheet: SheetPlan
  plan: IntakePlan
  wrong: Intake['wrong']
}>()
const emit = defineEmits<{ change: [column: ColumnPlan]; plan: [wish: ColumnWish] }>()
const build = useBuild()
const object = computed(() => (props.sheet.new ? undefined : build.object(props.sheet.object)))
const field = computed(() => object.value?.fields.find((f) => f.key === props.column.field))
const fields = computed(() => [
  { key: '', label: 'a new field' },
  ...(object.value?.fields ?? [])
    .filter((f) => !['worked_out', 'picture', 'file'].includes(f.type))
    // Records are recognised by their running number, but none can bring one.
    .filter((f) => f.type !== 'running_number' || props.sheet.mode === 'update')
    .map((f) => ({ key: f.key, label: f.label })),
])

/** What a reference can point at: objects there are, and those this plan makes. */
const targets = computed(() => {
  const made = props.plan.sheets
    .filter((s) => s.new && !s.skip)
    .map((s) => ({ key: s.object, label: s.label ?? s.object }))
  const there = (build.contents?.objects ?? [])
    .filter((o) => o.key !== 'file')
    .map((o) => ({ key: o.key, label: o.label }))
  return [...made, ...there]
})
const target = computed(() => (field.value ? targetOf(field.value) : props.column.refers))
const names = computed(() => {
  const made = props.plan.sheets.find((s) => s.new && s.object === target.value)
  if (made)
    return made.columns
      .filter((c) => !c.skip && !c.refers)
      .map((c) => ({ key: c.field, label: c.label ?? c.field }))
  return (build.object(target.value)?.fields ?? [])
    .filter((f: FieldDef) =>
      ['text', 'email', 'whole_number', 'worked_out', 'running_number'].includes(f.type),
    )
    .map((f) => ({ key: f.key, label: f.label }))
})

const composites = typesWhere((_, type) => partsOf(type).length).map((type): ReadingOption => ({
  key: type + '/',
  reading: { type },
  label: `${typeWords(type)} — a line for each comma`,
}))
const reference: ReadingOption = {
  key: 'reference/',
  reading: { type: 'reference' },
  label: 'reference to a record',
}
const options = computed(() => {
  const all = readingOptions(props.found)
  if (!field.value) return [...all, ...composites, reference]
  const type: FieldType = field.value.type === 'long_text' ? 'text' : field.value.type
  const fitting = all.filter((o) => o.reading.type === type)
  return fitting.length
    ? fitting
    : [{ key: type + '/', reading: { type }, label: typeWords(type) + ' — no cell fits' }]
})
const evidence = computed(() =>
  props.found.evidence.find((e) => readingKey(e.reading) === readingKey(props.column.reading)),
)

function change(some: Partial<ColumnPlan>): void {
  emit('change', { ...props.column, ...some })
}

const setReading = (key: string) =>
  emit('plan', { reading: options.value.find((o) => o.key === key)!.reading })
</script>

<template>
  <tr :class="{ skipped: column.skip }">
    <td>
      <Checkbox
        :model-value="!column.skip"
        binary
        :aria-label="'Bring in ' + found.heading"
        @update:model-value="
          $event && !column.field ? emit('plan', { field: '' }) : change({ skip: !$event || undefined })
        "
      />
    </td>
    <td>
      <strong>{{ found.heading }}</strong>
      <div class="muted small">
        {{ found.filled }} filled, {{ found.empty }} empty<template v-if="found.unique"
          >, all different</template
        >
      </div>
    </td>
    <td>
      <template v-if="!column.skip">
        <Select
          v-if="object"
          :model-value="column.new ? '' : column.field"
          :options="fields"
          option-label="label"
          option-value="key"
          placeholder="a new field"
          size="small"
          filter
          :aria-label="'Field for ' + found.heading"
          @update:model-value="emit('plan', { field: $event })"
        />
        <TextSlot
          v-if="column.new"
          :model-value="column.label ?? ''"
          :label="'Name of the field for ' + found.heading"
          @update:model-value="change({ label: $event })"
        />
        <div v-if="column.new" class="row small">
          <label class="row"
            ><Checkbox
              :model-value="!!column.required"
              binary
              @update:model-value="change({ required: $event || undefined })"
            />required</label
          >
          <label v-if="!column.refers" class="row"
            ><Checkbox
              :model-value="!!column.unique"
              binary
              @update:model-value="change({ unique: $event || undefined })"
            />unique</label
          >
        </div>
      </template>
      <span v-else class="muted">nowhere</span>
    </td>
    <td>
      <template v-if="!column.skip">
        <Select
          v-if="!field || !target"
          :model-value="readingKey(column.reading)"
          :options="options"
          option-label="label"
          option-value="key"
          size="small"
          :aria-label="'How ' + found.heading + ' is read'"
          @update:model-value="setReading"
        >
          <template #value>{{ readingWords(column.reading) }}</template>
        </Select>
        <label v-if="sheet.mode !== 'add' && column.field !== sheet.key" class="row small">
          <Checkbox
            :model-value="!!column.empties"
            binary
            :aria-label="'Empty cells of ' + found.heading + ' empty the field'"
            @update:model-value="change({ empties: $event || undefined })"
          />
          {{ column.empties ? 'empty cells empty the field' : 'empty cells leave what is there' }}
        </label>
        <div v-if="target || column.reading.type === 'reference'" class="row small">
          <Select
            v-if="column.new"
            :model-value="column.refers"
            :options="targets"
            option-label="label"
            option-value="key"
            size="small"
            placeholder="choose"
            :aria-label="'Object that ' + found.heading + ' refers to'"
            @update:model-value="change({ refers: $event, match: undefined })"
          />
          <span v-else>{{ build.one(target) }}</span>
          by
          <Select
            :model-value="column.match"
            :options="names"
            option-label="label"
            option-value="key"
            size="small"
            placeholder="choose"
            :aria-label="'Field by which ' + found.heading + ' names a record'"
            @update:model-value="change({ match: $event })"
          />
        </div>
      </template>
    </td>
    <td class="small">
      <template v-if="!column.skip">
        <p v-if="column.refers && match">
          <span class="good">{{ match.matches }} match</span> {{ match.target.label
          }}<template v-if="match.misses"
            >, <span class="bad">{{ match.misses }} {{ match.misses === 1 ? 'does' : 'do' }} not</span>:
            {{ (match.examples ?? []).join(', ') }}</template
          >
        </p>
        <template v-else>
          <p v-if="evidence">
            <span class="good">{{ evidence.fits }} fit</span
            ><template v-if="evidence.misfits"
              >,
              <span class="bad">{{ evidence.misfits }} {{ evidence.misfits === 1 ? 'does' : 'do' }} not</span
              >:
              <template v-for="(x, n) in evidence.examples ?? []" :key="n"
                >{{ n ? ', ' : '' }}“{{ x.value }}” in line {{ x.line }}</template
              ></template
            >
          </p>
          <p
            v-if="found.why && readingKey(found.guess) === readingKey(column.reading)"
            :class="column.undecided ? 'care' : 'muted'"
          >
            <strong v-if="column.undecided">Undecided: </strong>{{ found.why }}
            <Button
              v-if="column.undecided"
              label="Read it so"
              size="small"
              outlined
              :aria-label="'Read ' + found.heading + ' as ' + readingWords(column.reading)"
              @click="setReading(readingKey(column.reading))"
            />
          </p>
        </template>
      </template>
      <p v-for="w in wrong" :key="w.text" class="bad" role="alert">{{ w.text }}</p>
    </td>
    <td class="small muted samples">{{ (found.samples ?? []).join(' · ') }}</td>
  </tr>
</template>

<style scoped>
td {
  border-bottom: 1px solid var(--line);
  padding: 0.4rem 0.7rem 0.4rem 0;
  vertical-align: top;
}
p {
  margin: 0;
}
.small {
  font-size: 0.9rem;
}
.skipped strong {
  color: var(--muted);
  font-weight: 400;
}
.samples {
  max-width: 12rem;
  overflow-wrap: anywhere;
}
</style>
