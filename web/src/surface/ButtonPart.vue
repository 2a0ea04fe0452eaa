<script setup lang="ts">
import Button from 'primevue/button'
import type { PartEmits, PartProps } from './parts'

/** A button that stands by itself on a page. */
defineProps<PartProps>()
const emit = defineEmits<PartEmits>()
</script>

<template>
  <Button
    type="button"
    :label="part.label || part.key"
    :outlined="!part.button?.main"
    @click="emit('press')"
  />
</template>
