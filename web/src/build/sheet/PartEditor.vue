<script setup lang="ts">
import { IconArrowDown, IconArrowUp } from '@tabler/icons-vue'
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Finding, Part } from '@/api/types'
import { useBuild } from '../build'
import { keyAfter } from '../keys'
import ColumnsEditor from './ColumnsEditor.vue'
import { useSheet } from './context'
import FindingNote from './FindingNote.vue'
import KeySlot from './KeySlot.vue'
import OfferedWhen from './OfferedWhen.vue'
import InputPartEditor from './InputPartEditor.vue'
import KnownPicker from '../conditions/KnownPicker.vue'
import { knownValues } from '../conditions/known'
import TableExtras from './TableExtras.vue'
import TablePartEditor from './TablePartEditor.vue'
import TextSlot from './TextSlot.vue'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useKnown } from '../conditions/context'

const props = defineProps<{
  step: string
  pointer: string
  first: boolean
  last: boolean
  /** On a page, what feeds the part and when it is offered is set beside it. */
  page?: boolean
}>()
const part = defineModel<Part>({ required: true })
const emit = defineEmits<{ remove: []; move: [by: number] }>()
const build = useBuild()
const sheet = useSheet()
const here = useKnown()
const findings = computed<Finding[]>(() =>
  sheet.findings.value.filter(
    (f) => f.pointer === props.pointer || f.pointer.startsWith(props.pointer + '/'),
  ),
)
const names: Record<Part['kind'], string> = {
  input: 'Input',
  table: 'Table',
  details: 'Details',
  text: 'Text',
}
const objectOf = (source: string | undefined) =>
  knownValues(build, here.names(props.step), {}).find((k) => k.path === source)?.object
const detailsObject = computed(() => objectOf(part.value.details?.source))
const tableObject = computed(() => objectOf(part.value.table?.source))

function relabel(label: string): void {
  change({ label, key: keyAfter(sheet.body(), part.value.key, part.value.label ?? '', label) })
}

function change(some: Partial<Part>): void {
  part.value = { ...part.value, ...some }
}
</script>

<template>
  <div class="part">
    <div class="row">
      <strong>{{ names[part.kind] }}</strong>
      <TextSlot
        v-if="part.kind !== 'text'"
        :model-value="part.label ?? ''"
        label="Label"
        placeholder="label"
        @update:model-value="relabel"
      />
      <KeySlot :pointer="pointer" :name="part.key" :within="step" label="Key of the part" />
      <span class="space" />
      <Button
        v-if="!first"
        text
        size="small"
        severity="secondary"
        aria-label="Move the part up"
        @click="emit('move', -1)"
        ><IconArrowUp :size="15"
      /></Button>
      <Button
        v-if="!last"
        text
        size="small"
        severity="secondary"
        aria-label="Move the part down"
        @click="emit('move', 1)"
        ><IconArrowDown :size="15"
      /></Button>
      <RemoveButton label="Remove the part" @press="emit('remove')" />
    </div>
    <InputPartEditor v-if="part.input" :part="part" :step="step" @change="change({ input: $event })" />
    <TablePartEditor
      v-else-if="part.table"
      :part="part"
      :step="step"
      :page="page"
      @change="change({ table: $event })"
    />
    <template v-else-if="part.details">
      <div class="row">
        of
        <KnownPicker
          :model-value="part.details.source"
          :place="step"
          kind="record"
          label="Details of"
          placeholder="one record"
          @update:model-value="change({ details: { ...part.details!, source: $event } })"
        />
      </div>
      <ColumnsEditor
        v-if="detailsObject"
        :model-value="part.details.fields"
        :object="detailsObject"
        label="fields"
        @update:model-value="change({ details: { ...part.details!, fields: $event } })"
      />
    </template>
    <TextSlot
      v-else
      long
      :model-value="part.text ?? ''"
      label="Text"
      placeholder="Values stand in braces: {today}"
      @update:model-value="change({ text: $event })"
    />
    <TableExtras
      v-if="part.table && !page && tableObject"
      :table="part.table"
      :object="tableObject"
      :step="step"
      :pointer="pointer + '/table'"
      @change="change({ table: $event })"
    />
    <OfferedWhen
      v-if="!page && (part.kind !== 'text' || part.offered_when)"
      :place="step"
      :model-value="part.offered_when"
      @update:model-value="change({ offered_when: $event })"
    />
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
  </div>
</template>

<style scoped>
.part {
  display: flex;
  flex-direction: column;
  gap: 0.35rem;
  border-left: 2px solid var(--line);
  padding: 0.2rem 0 0.2rem 0.8rem;
}
.space {
  flex: 1;
}
</style>
