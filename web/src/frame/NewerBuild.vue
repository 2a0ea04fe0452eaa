<script setup lang="ts">
import { newer } from './newer'

const load = () => location.assign(newer.value)
</script>

<template>
  <p v-if="newer" class="newer" role="alert">
    A part of this page could not be loaded: the program was renewed, or does not answer. Save what you have,
    then
    <button type="button" class="plain link" @click="load">load it anew</button>.
    <button type="button" class="plain link" @click="newer = ''">Not now</button>
  </p>
</template>

<style scoped>
.newer {
  margin: 0;
  padding: 0.3rem 1rem;
  background: var(--tint);
  border-bottom: 1px solid var(--line);
}
</style>
