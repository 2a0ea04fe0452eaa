<script setup lang="ts">
/** Something that could not be read. */
defineProps<{ words: string }>()
defineEmits<{ again: [] }>()
</script>

<template>
  <p class="failed bad" role="alert">
    {{ words }} <button type="button" class="plain link" @click="$emit('again')">Try again</button>
  </p>
</template>

<style scoped>
.failed {
  padding: 1rem;
}
</style>
