<script setup lang="ts">
import CardList from './cards/CardList.vue'
import type { PartProps } from './parts'

/** Cards of several lists; where the lists are others, it begins anew. */
defineOptions({ inheritAttrs: false })
const props = defineProps<PartProps>()
const emit = defineEmits<{ written: [] }>()
const lists = () => JSON.stringify(props.part.cards!.sources.map((s) => [s.key, s.buttons]))
</script>

<template>
  <CardList :key="lists()" :part="part" :cards="part.cards!" :source="source" @written="emit('written')" />
</template>
