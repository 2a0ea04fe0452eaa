<script setup lang="ts">
import Button from 'primevue/button'
import type { Line } from '@/api/types'
import LineEditor from './LineEditor.vue'

/** What a button or a reaction does, line by line. */
defineProps<{ pointer: string; place: string; object: string; byItself?: boolean }>()
const lines = defineModel<Line[]>({ required: true })

function change(i: number, next: Line): void {
  lines.value = lines.value.map((l, n) => (n === i ? next : l))
}
</script>

<template>
  <LineEditor
    v-for="(l, i) in lines"
    :key="i"
    :model-value="l"
    :by-itself="byItself"
    :pointer="`${pointer}/${i}`"
    :place="place"
    :object="object"
    :first="i === 0"
    :last="i === lines.length - 1"
    @update:model-value="change(i, $event)"
    @remove="lines = lines.filter((_, n) => n !== i)"
  />
  <div class="row">
    <Button
      text
      size="small"
      label="and then …"
      @click="lines = [...lines, { kind: 'say', say: { text: 'Done.' } }]"
    />
  </div>
</template>
