<script setup lang="ts">
import Button from 'primevue/button'
import FloatPanel from '@/frame/FloatPanel.vue'
import Select from 'primevue/select'
import type { FieldDef } from '@/api/types'
import { fieldTypes } from '@/fields/fields'
import { computed, ref } from 'vue'
import { useBuild } from '../build'
import { knownValues } from '../conditions/known'
import { useKnown } from '../conditions/context'
import { partKinds, parts } from '@/surface/parts'
import { useCopied } from '../part/clipboard'
import type { PartEdits } from './edits'

/** An edge of a page where something can be added. */
const props = defineProps<{
  band: number
  column: number
  edits: PartEdits
  label: string
  beside?: boolean
}>()
const emit = defineEmits<{ added: [part: string] }>()
const build = useBuild()
const here = useKnown()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const records = computed(() =>
  knownValues(build, here.names(''), {}).filter((k) => k.kind === 'record' && k.path.endsWith('.selected')),
)

/** What shows the records of an object comes with a search for them. */
const fed = [
  { kind: 'table', words: 'A table of' },
  { kind: 'figure', words: 'A figure over' },
  { kind: 'chart', words: 'A chart of' },
  { kind: 'calendar', words: 'A calendar of' },
] as const

/** The parts that show nothing that has to be known. */
const plain = partKinds.filter((k) => !parts[k].shows && !parts[k].screens)

const shown = (path: string) => ({
  path,
  object: build.object(records.value.find((r) => r.path === path)?.object),
})

/** The records of objects that have such a field. */
const having = (does: (f: FieldDef) => boolean) =>
  records.value.filter((r) => build.object(r.object)?.fields.some(does))
/** What may show something of a record that is known. */
const ofRecord = computed(() =>
  [
    { kind: 'details' as const, words: 'Details of', options: records.value },
    {
      kind: 'viewer' as const,
      words: 'The file of',
      options: having((f) => fieldTypes[f.type].family === 'file'),
    },
    { kind: 'picture' as const, words: 'The picture of', options: having((f) => f.type === 'picture') },
    { kind: 'place' as const, words: 'The address of', options: having((f) => f.type === 'address') },
  ].filter((o) => o.options.length),
)

/** What a form may be about: a record that is chosen, or one to be added. */
const forms = computed(() => [
  ...records.value.map((r) => ({ label: 'to change ' + r.label, of: shown(r.path) })),
  ...build.own.map((o) => ({ label: 'for a new ' + o.label.toLowerCase(), of: { path: '', object: o } })),
])

const { copied } = useCopied()

function done(part: string): void {
  panel.value?.hide()
  emit('added', part)
}
</script>

<template>
  <div class="edge">
    <Button text size="small" :label="label" @click="panel?.toggle($event)" />
    <FloatPanel ref="panel" aria-label="Add a part">
      <div class="choices">
        <Select
          v-for="f in fed"
          :key="f.kind"
          :model-value="''"
          :options="build.own"
          option-label="plural"
          option-value="key"
          filter
          size="small"
          :placeholder="f.words + ' …'"
          :aria-label="f.words"
          @update:model-value="done(props.edits.addFed(band, column, f.kind, $event))"
        />
        <Select
          v-for="o in ofRecord"
          :key="o.kind"
          :model-value="''"
          :options="o.options"
          option-label="label"
          option-value="path"
          size="small"
          :placeholder="o.words + ' …'"
          :aria-label="o.words"
          @update:model-value="done(props.edits.add(band, column, o.kind, shown($event)))"
        />
        <Select
          :model-value="null"
          :options="forms"
          option-label="label"
          option-value="of"
          filter
          size="small"
          placeholder="A form …"
          aria-label="A form"
          @update:model-value="done(props.edits.add(band, column, 'form', $event))"
        />
        <Button
          v-for="kind in plain"
          :key="kind"
          text
          size="small"
          :label="parts[kind].one"
          @click="done(props.edits.add(band, column, kind))"
        />
        <Button
          v-if="copied"
          text
          size="small"
          :label="`Paste ${copied.whole ? 'the band' : ''} “${copied.label}”`"
          @click="done(props.edits.paste(copied, props.edits.end(band, column)))"
        />
        <Button
          v-if="beside"
          text
          size="small"
          label="A column beside it"
          @click="(props.edits.addColumn(band), panel?.hide())"
        />
      </div>
    </FloatPanel>
  </div>
</template>

<style scoped>
.edge :deep(.p-button-label) {
  color: var(--muted);
}
.edge {
  border-top: 1px dashed var(--line);
}
.edge:hover :deep(.p-button-label),
.edge:focus-within :deep(.p-button-label) {
  color: var(--accent);
}
.choices {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 0.3rem;
}
</style>
