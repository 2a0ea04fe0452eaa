<script setup lang="ts">
import {
  IconAlertTriangle,
  IconCheck,
  IconClock,
  IconFlag,
  IconLock,
  IconStar,
  IconTool,
} from '@tabler/icons-vue'
import type { MarkView } from '@/api/types'

/** What a mark says, with its colour and icon. */
defineProps<{ mark: MarkView }>()
const icons: Record<string, typeof IconCheck> = {
  alert: IconAlertTriangle,
  check: IconCheck,
  clock: IconClock,
  flag: IconFlag,
  lock: IconLock,
  star: IconStar,
  tool: IconTool,
}
</script>

<template>
  <span class="says" :class="mark.colour"
    ><component :is="icons[mark.icon]" v-if="mark.icon" :size="13" aria-hidden="true" />{{ mark.says }}</span
  >
</template>

<style scoped>
.says {
  display: inline-flex;
  align-items: center;
  gap: 0.2rem;
  font-size: 0.8rem;
  border: 1px solid currentColor;
  border-radius: 4px;
  padding: 0 0.3rem;
}
.says.plain {
  color: var(--muted);
}
</style>
