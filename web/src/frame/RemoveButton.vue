<script setup lang="ts">
import { IconX } from '@tabler/icons-vue'
import Button from 'primevue/button'

/** A small cross that takes one thing away; the label says which. */
defineProps<{ label: string }>()
const emit = defineEmits<{ press: [] }>()
</script>

<template>
  <Button text size="small" severity="secondary" :aria-label="label" @click="emit('press')"
    ><IconX :size="15"
  /></Button>
</template>
