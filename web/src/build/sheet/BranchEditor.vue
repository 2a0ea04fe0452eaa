<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Step } from '@/api/types'
import { drop, put, swap } from '../document'
import { useSheet } from './context'
import KnownPicker from '../conditions/KnownPicker.vue'
import TextSlot from './TextSlot.vue'
import RemoveButton from '@/frame/RemoveButton.vue'

const props = defineProps<{ step: Step; pointer: string }>()
const sheet = useSheet()
const at = computed(() => props.pointer + '/branch')
const ways = computed(() => props.step.branch!.ways)

function more(): void {
  void sheet.edit(
    put(at.value + '/ways/-', { title: `Way ${ways.value.length + 1}`, when: 'false', steps: [] }),
  )
}
</script>

<template>
  <div class="editor">
    <p class="muted">
      The first way whose condition holds is taken. An expression such as size(buildings) == 0.
    </p>
    <div v-for="(w, i) in ways" :key="i" class="row">
      <TextSlot
        :model-value="w.title"
        label="Name of the way"
        @update:model-value="sheet.edit(swap(`${at}/ways/${i}/title`, $event))"
      />
      when
      <KnownPicker
        :model-value="w.when"
        :place="step.key"
        label="Condition of the way"
        @update:model-value="sheet.edit(swap(`${at}/ways/${i}/when`, $event))"
      />
      <RemoveButton :label="'Remove the way ' + w.title" @press="sheet.edit(drop(`${at}/ways/${i}`))" />
    </div>
    <div class="row">
      otherwise go on below <Button text size="small" label="Another way" @click="more" />
    </div>
  </div>
</template>

<style scoped>
.editor {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
p {
  margin: 0;
}
</style>
