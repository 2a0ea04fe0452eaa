<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { CardSource, Face } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import RemoveButton from '@/frame/RemoveButton.vue'
import type { PathOption } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import PathPicker from '../conditions/PathPicker.vue'
import KeySlot from '../sheet/KeySlot.vue'
import TextSlot from '../sheet/TextSlot.vue'
import FaceEditor from './FaceEditor.vue'

/** One list of cards: where it comes from, what puts it in order, how its records look. */
const props = defineProps<{ pointer: string; step: string }>()
const source = defineModel<CardSource>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const objectOf = useObjectOf(() => props.step)
const object = computed(() => objectOf(source.value.source) ?? '')
const orders = ({ field }: PathOption) => {
  const { family } = fieldTypes[resultOf(field)]
  return family === 'time' || (family === 'number' && resultOf(field) !== 'money')
}

function change(some: Partial<CardSource>): void {
  source.value = { ...source.value, ...some }
}

function changeFace(i: number, next: Face): void {
  change({ faces: source.value.faces.map((f, n) => (n === i ? next : f)) })
}

/** Another face comes before the one that holds for all others. */
function another(): void {
  const last = source.value.faces.at(-1)
  change({
    faces: [{ heading: last?.heading ?? '', lines: last?.lines, when: 'true' }, ...source.value.faces],
  })
}
</script>

<template>
  <div class="source">
    <div class="row">
      <TextSlot
        :model-value="source.label"
        label="What the list is called"
        class="name"
        @update:model-value="change({ label: $event })"
      />
      <KeySlot :pointer="pointer" :name="source.key" label="Key of the list" />
      <RemoveButton label="Remove the list" @press="emit('remove')" />
    </div>
    <div class="row">
      of
      <KnownPicker
        :model-value="source.source"
        :place="step"
        kind="list"
        label="The list of these cards"
        placeholder="a list"
        @update:model-value="change({ source: $event })"
      />
      in the order of
      <PathPicker
        v-if="object"
        :model-value="source.by"
        :object="object"
        label="What puts them in order"
        :only="orders"
        @update:model-value="change({ by: $event })"
      />
    </div>
    <FaceEditor
      v-for="(f, i) in source.faces"
      :key="i"
      :model-value="f"
      :pointer="`${pointer}/faces/${i}`"
      :step="step"
      :object="object"
      :alone="source.faces.length === 1"
      @update:model-value="changeFace(i, $event)"
      @remove="change({ faces: source.faces.filter((_, n) => n !== i) })"
    />
    <div class="row">
      <Button text size="small" label="Another face for some" @click="another" />
    </div>
  </div>
</template>

<style scoped>
.source {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
  border-left: 2px solid var(--line);
  padding-left: 0.7rem;
  align-self: stretch;
}
.name {
  font-weight: 600;
}
</style>
