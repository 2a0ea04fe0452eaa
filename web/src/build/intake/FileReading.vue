<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Intake, IntakeSettings } from '@/api/types'

/** How a file is read, as it was found out or set: the sheet is read anew with every change. */
const props = defineProps<{
  file: Intake['files'][number]
  sheet: number
  line: number
  encodings: string[]
}>()
const emit = defineEmits<{ set: [settings: IntakeSettings] }>()
const isText = computed(() => props.file.recognised?.kind === 'csv')
const parted = [
  { key: ',', label: 'commas' },
  { key: ';', label: 'semicolons' },
  { key: '\t', label: 'tabs' },
  { key: '|', label: 'bars |' },
  { key: ':', label: 'colons' },
]
const delimiter = computed(() => props.file.recognised?.delimiter ?? ',')
const options = computed(() =>
  parted.some((p) => p.key === delimiter.value)
    ? parted
    : [...parted, { key: delimiter.value, label: `“${delimiter.value}”` }],
)
const rows = [
  { key: 0, label: 'no headings' },
  { key: 1, label: 'one line' },
  { key: 2, label: 'two lines' },
  { key: 3, label: 'three lines' },
]
const asFound = 'found'
const decimals = [
  { key: asFound, label: 'what each column has' },
  { key: 'point', label: 'a decimal point' },
  { key: 'comma', label: 'a decimal comma' },
]
const dates = [
  { key: asFound, label: 'what each column has' },
  { key: 'dmy', label: 'the day first' },
  { key: 'mdy', label: 'the month first' },
]
const set = computed(() => props.file.recognised?.sheets[props.sheet]?.headings)
const depth = computed(() => set.value?.rows ?? (props.line ? 1 : 0))
const first = computed(() => set.value?.line ?? (props.line || 1))

function change(some: Partial<IntakeSettings>): void {
  emit('set', { ...props.file.settings, ...some })
}

function headings(line: number, count: number): void {
  if (!Number.isInteger(line) || line < 1) return
  change({ headings: { ...props.file.settings.headings, [props.sheet]: { line, rows: count } } })
}
</script>

<template>
  <div class="row reading">
    <template v-if="isText">
      Letters in
      <Select
        :model-value="file.recognised?.encoding"
        :options="encodings"
        size="small"
        filter
        aria-label="Encoding of the file"
        @update:model-value="change({ encoding: $event })"
      />
      cells parted by
      <Select
        :model-value="delimiter"
        :options="options"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="What parts the cells"
        @update:model-value="change({ delimiter: $event })"
      />
    </template>
    {{ isText ? 'headings' : 'Headings in' }}
    <Select
      :model-value="depth"
      :options="rows"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="How many lines of headings"
      @update:model-value="headings(first, $event)"
    />
    {{ depth ? 'from line' : 'rows from line' }}
    <InputText
      :model-value="String(first)"
      size="small"
      inputmode="numeric"
      class="line"
      aria-label="Line it begins in"
      @change="headings(Number(($event.target as HTMLInputElement).value), depth)"
    />
    numbers with
    <Select
      :model-value="file.settings.decimal ?? asFound"
      :options="decimals"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="Decimal mark of the file"
      @update:model-value="change({ decimal: $event === asFound ? undefined : $event })"
    />
    dates with
    <Select
      :model-value="file.settings.dates ?? asFound"
      :options="dates"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="Order of dates in the file"
      @update:model-value="change({ dates: $event === asFound ? undefined : $event })"
    />
  </div>
  <p v-if="file.recognised?.words?.length" class="care">
    How the letters are written is a guess. These are read as
    {{ file.recognised.words.map((w) => `“${w}”`).join(', ') }}: choose another if they are not what they
    should be.
  </p>
</template>

<style scoped>
.reading {
  margin: 0.3rem 0;
  flex-wrap: wrap;
}
.line {
  width: 4rem;
}
</style>
