<script setup lang="ts">
import { IconCopy } from '@tabler/icons-vue'
import Button from 'primevue/button'
import { computed, ref } from 'vue'
import type { Finding, Part } from '@/api/types'
import { keyAfter } from '../keys'
import { useSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import KeySlot from '../sheet/KeySlot.vue'
import OfferedWhen from '../sheet/OfferedWhen.vue'
import TextSlot from '../sheet/TextSlot.vue'
import { parts } from '@/surface/parts'
import AskedSettings from '../AskedSettings.vue'
import MoveButtons from '../MoveButtons.vue'
import RemoveButton from '@/frame/RemoveButton.vue'

const props = defineProps<{
  /** The step that the part is on, and the place of its expressions. */
  step: string
  place: string
  pointer: string
  first: boolean
  last: boolean
  /** On a page, what feeds the part and when it is offered is set beside it. */
  page?: boolean
}>()
const part = defineModel<Part>({ required: true })
const emit = defineEmits<{ remove: []; move: [by: number]; copy: [] }>()
const sheet = useSheet()
const findings = computed<Finding[]>(() =>
  sheet.findings.value.filter(
    (f) => f.pointer === props.pointer || f.pointer.startsWith(props.pointer + '/'),
  ),
)
const kind = computed(() => parts[part.value.kind])
const labelSlot = ref<InstanceType<typeof TextSlot> | null>(null)
defineExpose({ focus: () => labelSlot.value?.focus() })

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
      <strong>{{ kind.label }}</strong>
      <TextSlot
        v-if="kind.labelled"
        ref="labelSlot"
        :model-value="part.label ?? ''"
        label="Label"
        placeholder="label"
        @update:model-value="relabel"
      />
      <KeySlot :pointer="pointer" :name="part.key" :within="step" label="Key of the part" />
      <span class="space" />
      <MoveButtons what="the part" :first="first" :last="last" @move="emit('move', $event)" />
      <Button
        text
        size="small"
        severity="secondary"
        aria-label="Copy the part"
        title="Copy the part, to be pasted on any page or screen"
        @click="emit('copy')"
        ><IconCopy :size="15"
      /></Button>
      <RemoveButton label="Remove the part" @press="emit('remove')" />
    </div>
    <component
      :is="kind.editor"
      v-if="kind.editor"
      :part="part"
      :step="place"
      :pointer="pointer"
      :page="page"
      @change="change"
    />
    <AskedSettings
      v-else-if="kind.asks"
      :sentence="kind.asks"
      :model-value="{ ...part }"
      :place="place"
      @update:model-value="change"
    />
    <OfferedWhen
      v-if="!page && (kind.labelled || part.offered_when)"
      :place="place"
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
