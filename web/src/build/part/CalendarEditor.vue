<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { CalendarDef, CalendarSpan, Part } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import type { PathOption } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import PathPicker from '../conditions/PathPicker.vue'
import ColumnsEditor from '../sheet/ColumnsEditor.vue'
import type { PartEditorProps } from './editor'

/** Which list is on the calendar, when its records begin and end, and what is shown of them. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const calendar = computed(() => props.part.calendar!)
const objectOf = useObjectOf(() => props.step)
const object = computed(() => objectOf(calendar.value.source))
const times = ({ field }: PathOption) => ['date', 'date_time'].includes(resultOf(field))
const grouped = ({ field }: PathOption) =>
  resultOf(field) !== 'long_text' && fieldTypes[resultOf(field)].family !== 'file'
const opens: { value: CalendarSpan; label: string }[] = [
  { value: 'month', label: 'a month' },
  { value: 'week', label: 'a week' },
  { value: 'time_line', label: 'a time line' },
]

function change(some: Partial<CalendarDef>): void {
  emit('change', { calendar: { ...calendar.value, ...some } })
}
</script>

<template>
  <div class="row">
    of
    <KnownPicker
      :model-value="calendar.source"
      :place="step"
      kind="list"
      label="What is on the calendar"
      placeholder="a list"
      @update:model-value="change({ source: $event })"
    />
    opening with
    <Select
      :model-value="calendar.opens ?? 'month'"
      :options="opens"
      option-label="label"
      option-value="value"
      size="small"
      aria-label="What the calendar opens with"
      @update:model-value="change({ opens: $event === 'month' ? undefined : $event })"
    />
  </div>
  <template v-if="object">
    <div class="row">
      from
      <PathPicker
        :model-value="calendar.starts"
        :object="object"
        label="When it begins"
        placeholder="when it begins"
        :only="times"
        @update:model-value="change({ starts: $event })"
      />
      until
      <PathPicker
        :model-value="calendar.ends ?? ''"
        :object="object"
        label="Until when it lasts"
        placeholder="at one point"
        :only="times"
        @update:model-value="change({ ends: $event || undefined })"
      />
    </div>
    <div class="row">
      a line for each
      <PathPicker
        :model-value="calendar.by ?? ''"
        :object="object"
        label="What there is a line for"
        placeholder="no time line"
        :only="grouped"
        @update:model-value="change({ by: $event || undefined })"
      />
    </div>
    <ColumnsEditor
      :model-value="calendar.columns ?? []"
      :object="object"
      label="with"
      @update:model-value="change({ columns: $event.length ? $event : undefined })"
    />
  </template>
</template>
