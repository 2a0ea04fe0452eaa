<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Mark, TableColumn } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import TextSlot from '../sheet/TextSlot.vue'

/** What sets cells and rows of a table apart. */
const props = defineProps<{ pointer: string; place: string; object: string; columns: TableColumn[] }>()
const marks = defineModel<Mark[]>({ required: true })
const build = useBuild()
const sheet = useSheet()
// No column has such a path.
const wholeRow = '(row)'
const colours = ['good', 'care', 'bad', 'plain']
const icons = ['none', 'alert', 'check', 'clock', 'flag', 'lock', 'star', 'tool'].map((key) => ({
  key,
  label: key === 'none' ? 'no icon' : key,
}))
const where = computed(() => [
  { key: wholeRow, label: 'the row' },
  ...props.columns.map((c) => ({ key: c.path, label: c.label || build.pathLabel(props.object, c.path) })),
])
const findings = computed(() => sheet.findings.value.filter((f) => f.pointer.startsWith(props.pointer + '/')))

function change(i: number, some: Partial<Mark>): void {
  marks.value = marks.value.map((m, n) => (n === i ? { ...m, ...some } : m))
}
</script>

<template>
  <div v-for="(m, i) in marks" :key="i" class="row mark">
    mark
    <Select
      :model-value="m.column ?? wholeRow"
      :options="where"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="What is marked"
      @update:model-value="change(i, { column: $event === wholeRow ? undefined : $event })"
    />
    “<TextSlot
      :model-value="m.says"
      label="The word of the mark"
      placeholder="late"
      @update:model-value="change(i, { says: $event })"
    />”
    <Select
      :model-value="m.colour"
      :options="colours"
      size="small"
      aria-label="Colour of the mark"
      @update:model-value="change(i, { colour: $event })"
    />
    <Select
      :model-value="m.icon ?? 'none'"
      :options="icons"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="Icon of the mark"
      @update:model-value="change(i, { icon: $event === 'none' ? undefined : $event })"
    />
    when
    <KnownPicker
      :model-value="m.when"
      :place="place"
      kind="yesno"
      label="Marked when"
      placeholder="row.due < today"
      @update:model-value="change(i, { when: $event })"
    />
    <RemoveButton label="Remove the mark" @press="marks = marks.filter((_, n) => n !== i)" />
  </div>
  <Button
    text
    size="small"
    label="Mark cells or rows"
    @click="marks = [...marks, { when: 'false', colour: 'care', says: 'look' }]"
  />
  <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
</template>

<style scoped>
.mark {
  margin-top: 0.3rem;
}
</style>
