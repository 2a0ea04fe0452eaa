<script setup lang="ts">
import { IconAlertTriangle, IconHandStop } from '@tabler/icons-vue'
import Button from 'primevue/button'
import type { Finding } from '@/api/types'
import { useSheet } from './context'

const props = defineProps<{ finding: Finding }>()
const sheet = useSheet()

function mend(): void {
  if (props.finding.mend) void sheet.edit(...props.finding.mend.patch)
}
</script>

<template>
  <p class="finding" :class="finding.severity" role="note">
    <component
      :is="finding.severity === 'stop' ? IconHandStop : IconAlertTriangle"
      :size="16"
      aria-hidden="true"
    />
    <span>
      <strong>{{ finding.severity === 'stop' ? 'Stop' : 'Care' }}:</strong> {{ finding.text }}.
      <span class="muted">{{ finding.consequence }}</span>
      <Button v-if="finding.mend" text size="small" :label="finding.mend.label" @click.stop="mend" />
    </span>
  </p>
</template>

<style scoped>
.finding {
  display: flex;
  gap: 0.4rem;
  margin: 0.15rem 0;
  font-size: 0.92rem;
}
.stop svg,
.stop strong {
  color: var(--bad);
}
.care svg,
.care strong {
  color: var(--care);
}
svg {
  flex: none;
  margin-top: 0.15rem;
}
</style>
