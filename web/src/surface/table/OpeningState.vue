<script setup lang="ts">
import type { Opening } from './opening'

defineProps<{ opening: Opening }>()
</script>

<template>
  <p v-if="opening.failed.value" class="bad" role="alert">
    {{ opening.failed.value }}
    <button type="button" class="plain link" @click="opening.again()">Try again</button>
  </p>
  <p v-else class="muted">Opening …</p>
</template>
