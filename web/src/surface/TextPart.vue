<script setup lang="ts">
import type { PartView } from '@/api/types'
import { say } from './sentence'

defineOptions({ inheritAttrs: false })
defineProps<{ part: PartView }>()
</script>

<template>
  <p>{{ say(part.text) }}</p>
</template>

<style scoped>
p {
  margin: 0;
  white-space: pre-line;
}
</style>
