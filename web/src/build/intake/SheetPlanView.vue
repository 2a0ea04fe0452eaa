<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import Select from 'primevue/select'
import { computed } from 'vue'
import type {
  ColumnPlan,
  ColumnWish,
  FoundSheet,
  Intake,
  IntakePlan,
  IntakeSettings,
  SheetPlan,
} from '@/api/types'
import { useBuild } from '../build'
import TextSlot from '../sheet/TextSlot.vue'
import ColumnRow from './ColumnRow.vue'
import FileReading from './FileReading.vue'

/** What becomes of one sheet, said as a sentence, with a row for each column. */
const props = defineProps<{
  sheet: SheetPlan
  found: FoundSheet
  file: Intake['files'][number]
  plan: IntakePlan
  index: number
  wrong: Intake['wrong']
}>()
const emit = defineEmits<{
  change: [sheet: SheetPlan]
  object: [key: string]
  column: [index: number, wish: ColumnWish]
  reading: [settings: IntakeSettings]
}>()
const build = useBuild()
const analysis = computed(() => props.found.analysis)
const objects = computed(() => [
  { key: '', label: 'a new object' },
  ...build.own.map((o) => ({ key: o.key, label: o.plural })),
])
const modes = [
  { key: 'add', label: 'are added' },
  { key: 'update', label: 'update those there are' },
  { key: 'both', label: 'update those there are, new ones are added' },
]
const keys = computed(() =>
  props.sheet.columns
    .filter((c) => !c.skip && !c.refers)
    .map((c) => ({ key: c.field, label: c.label || c.field })),
)

function change(some: Partial<SheetPlan>): void {
  emit('change', { ...props.sheet, ...some })
}

function setColumn(i: number, column: ColumnPlan): void {
  const columns = props.sheet.columns.map((c, n) => (n === i ? column : c))
  const stillThere = columns.some((c) => !c.skip && c.field === props.sheet.label_field)
  const first = columns.find((c) => !c.skip && !c.refers)?.field
  change({ columns, label_field: props.sheet.new && !stillThere ? first : props.sheet.label_field })
}
</script>

<template>
  <section class="sheet" :class="{ skipped: sheet.skip }">
    <h2 class="row">
      {{ found.name }}
      <span class="muted small">
        <template v-if="analysis"
          >{{ analysis.rows.toLocaleString() }} rows, {{ analysis.columns.length }} columns</template
        >
        <template v-if="found.hidden">, hidden in the workbook</template>
      </span>
      <label class="row small take"
        ><Checkbox
          :model-value="!sheet.skip"
          binary
          :disabled="!analysis"
          @update:model-value="change({ skip: !$event || undefined })"
        />
        bring it in</label
      >
    </h2>
    <FileReading
      v-if="file.recognised && !sheet.skip"
      :file="file"
      :sheet="found.sheet"
      :line="analysis?.line ?? 0"
      :encodings="build.contents?.encodings ?? []"
      @set="emit('reading', $event)"
    />
    <p v-if="found.problem" class="bad">{{ found.problem }}</p>
    <template v-if="analysis && !sheet.skip">
      <p v-for="n in analysis.notes" :key="n" class="care">{{ n }}</p>
      <div class="row">
        The rows go into
        <Select
          :model-value="sheet.new ? '' : sheet.object"
          :options="objects"
          option-label="label"
          option-value="key"
          placeholder="a new object"
          size="small"
          filter
          :aria-label="'Where ' + found.name + ' goes'"
          @update:model-value="emit('object', $event)"
        />
        <template v-if="sheet.new">
          called
          <TextSlot
            :model-value="sheet.label ?? ''"
            label="Name of one"
            @update:model-value="change({ label: $event })"
          />
          and several
          <TextSlot
            :model-value="sheet.plural ?? ''"
            label="Name of many"
            @update:model-value="change({ plural: $event })"
          />
          shown by its
          <Select
            :model-value="sheet.label_field"
            :options="keys"
            option-label="label"
            option-value="key"
            size="small"
            aria-label="Field that stands for a record"
            @update:model-value="change({ label_field: $event })"
          />
        </template>
        <template v-else>
          and
          <Select
            :model-value="sheet.mode"
            :options="modes"
            option-label="label"
            option-value="key"
            size="small"
            aria-label="What happens to records"
            @update:model-value="change({ mode: $event })"
          />
          <template v-if="sheet.mode !== 'add'">
            recognised by
            <Select
              :model-value="sheet.key"
              :options="keys"
              option-label="label"
              option-value="key"
              size="small"
              placeholder="choose"
              aria-label="Field that records are recognised by"
              @update:model-value="change({ key: $event })"
            />
          </template>
        </template>
      </div>
      <p v-for="w in wrong.filter((w) => w.column < 0)" :key="w.text" class="bad" role="alert">
        {{ w.text }}
      </p>
      <table>
        <thead>
          <tr>
            <th class="tick"><span class="visually-hidden">Bring in</span></th>
            <th>Column</th>
            <th>goes into</th>
            <th>read as</th>
            <th>Evidence</th>
            <th>Samples</th>
          </tr>
        </thead>
        <tbody>
          <ColumnRow
            v-for="(c, i) in sheet.columns"
            :key="i"
            :column="c"
            :found="analysis.columns[i]"
            :match="found.matches?.[i]"
            :sheet="sheet"
            :plan="plan"
            :wrong="wrong.filter((w) => w.column === i)"
            @change="setColumn(i, $event)"
            @plan="emit('column', i, $event)"
          />
        </tbody>
      </table>
    </template>
  </section>
</template>

<style scoped>
.sheet {
  margin: 1rem 0 1.8rem;
}
.skipped h2 {
  color: var(--muted);
}
.small {
  font-size: 0.9rem;
  font-weight: 400;
}
.take {
  margin-left: auto;
}
p {
  margin: 0.3rem 0;
}
table {
  width: 100%;
  margin-top: 0.7rem;
}
th {
  text-align: left;
  color: var(--muted);
  font-weight: 600;
  font-size: 0.9rem;
  border-bottom: 1px solid var(--line);
  padding: 0.25rem 0.6rem 0.25rem 0;
}
.tick {
  width: 1.6rem;
}
</style>
