<script setup lang="ts">
import { IconArrowDown, IconArrowUp } from '@tabler/icons-vue'
import Button from 'primevue/button'

/** Moves something up and down its list, where there is something above or below. */
defineProps<{ what: string; first: boolean; last: boolean }>()
const emit = defineEmits<{ move: [by: number] }>()
</script>

<template>
  <Button
    v-if="!first"
    text
    size="small"
    severity="secondary"
    :aria-label="`Move ${what} up`"
    @click="emit('move', -1)"
    ><IconArrowUp :size="15"
  /></Button>
  <Button
    v-if="!last"
    text
    size="small"
    severity="secondary"
    :aria-label="`Move ${what} down`"
    @click="emit('move', 1)"
    ><IconArrowDown :size="15"
  /></Button>
</template>
