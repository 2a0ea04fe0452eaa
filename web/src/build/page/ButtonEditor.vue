<script setup lang="ts">
import MultiSelect from 'primevue/multiselect'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Button as Def } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useBuild } from '../build'
import { keyAfter } from '../keys'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import KeySlot from '../sheet/KeySlot.vue'
import TextSlot from '../sheet/TextSlot.vue'
import DoEditor from './DoEditor.vue'

/** One button: what it says, what it is about, when it is offered, what it does. */
const props = defineProps<{ pointer: string; place: string; object: string }>()
const button = defineModel<Def>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const build = useBuild()
const sheet = useSheet()
const about = [
  { key: 'one', label: 'the row chosen' },
  { key: 'some', label: 'the rows chosen' },
  { key: 'each', label: 'the row it stands in' },
  { key: 'table', label: 'the table' },
]
const roles = computed(() => build.contents?.documents.filter((d) => d.kind === 'role') ?? [])
const findings = computed(() =>
  sheet.findings.value.filter(
    (f) => f.pointer === props.pointer || f.pointer.startsWith(props.pointer + '/'),
  ),
)

function relabel(label: string): void {
  change({ label, key: keyAfter(sheet.body(), button.value.key, button.value.label, label) })
}

function change(some: Partial<Def>): void {
  button.value = { ...button.value, ...some }
}
</script>

<template>
  <div class="button">
    <div class="row">
      <TextSlot
        :model-value="button.label"
        label="What the button says"
        class="label"
        @update:model-value="relabel"
      />
      <KeySlot :pointer="pointer" :name="button.key" label="Key of the button" />
      about
      <Select
        :model-value="button.on"
        :options="about"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="What the button is about"
        @update:model-value="change({ on: $event })"
      />
      <RemoveButton label="Remove the button" @press="emit('remove')" />
    </div>
    <DoEditor
      :model-value="button.do"
      :pointer="pointer + '/do'"
      :place="place"
      :object="object"
      @update:model-value="change({ do: $event })"
    />
    <div class="row muted">
      offered when
      <KnownPicker
        :model-value="button.offered_when ?? ''"
        :place="place"
        kind="yesno"
        label="The button is offered when"
        placeholder="always"
        @update:model-value="change({ offered_when: $event || undefined })"
      />
    </div>
    <TextSlot
      v-if="button.offered_when"
      :model-value="button.why ?? ''"
      label="Why it is off"
      placeholder="What people read when it is not"
      @update:model-value="change({ why: $event || undefined })"
    />
    <div class="row muted">
      for
      <MultiSelect
        :model-value="button.roles ?? []"
        :options="roles"
        option-label="label"
        option-value="key"
        size="small"
        placeholder="everybody"
        aria-label="Whose button it is"
        @update:model-value="change({ roles: $event.length ? $event : undefined })"
      />
      asks first
      <TextSlot
        :model-value="button.confirm ?? ''"
        label="What it asks first"
        placeholder="nothing"
        @update:model-value="change({ confirm: $event || undefined })"
      />
    </div>
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
  </div>
</template>

<style scoped>
.button {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
  border-left: 2px solid var(--line);
  padding-left: 0.7rem;
  align-self: stretch;
}
.label {
  font-weight: 600;
  width: 11rem;
}
</style>
