<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Band, Reaction } from '@/api/types'
import { keyFrom } from '../build'
import { drop, put } from '../document'
import { useSheet } from '../sheet/context'
import ReactionEditor from './ReactionEditor.vue'

/** All that a page or a screen does by itself, in sentences. The pointer is that of the page or screen. */
const props = defineProps<{ bands: Band[]; reactions: Reaction[]; pointer: string; place: string }>()
const sheet = useSheet()
const at = computed(() => props.pointer + '/reactions')

function set(next: Reaction[]): void {
  void sheet.edit(next.length ? put(at.value, next) : drop(at.value))
}

function add(): void {
  const key = keyFrom(
    'reaction',
    props.reactions.map((r) => r.key),
  )
  set([...props.reactions, { key, when: { event: 'opened' }, do: [] }])
}
</script>

<template>
  <ReactionEditor
    v-for="(r, i) in reactions"
    :key="r.key"
    :model-value="r"
    :bands="bands"
    :pointer="`${at}/${i}`"
    :place="place"
    @update:model-value="set(reactions.map((o, n) => (n === i ? $event : o)))"
    @remove="set(reactions.filter((_, n) => n !== i))"
  />
  <Button text size="small" label="When something happens …" @click="add" />
</template>
