<script setup lang="ts">
import { useDrafts } from './drafts'

/** Says that edits wait for the connection, wherever somebody is meanwhile. */
const drafts = useDrafts()
</script>

<template>
  <span v-if="drafts.lost" class="bad" role="status">
    {{ drafts.waiting }} {{ drafts.waiting === 1 ? 'change waits' : 'changes wait' }}: the server does not
    answer
    <button type="button" class="plain link" @click="drafts.now()">Try now</button>
  </span>
</template>

<style scoped>
span {
  white-space: nowrap;
}
</style>
