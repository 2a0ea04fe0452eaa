<script setup lang="ts">
import { IconAlertTriangle, IconHandStop } from '@tabler/icons-vue'
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Finding } from '@/api/types'
import { useSheet } from './context'

const props = defineProps<{ finding: Finding }>()
const sheet = useSheet()

/** The expression cut in three: before the place, the word at it, after it. */
const place = computed(() => {
  const p = props.finding.position
  if (!p) return undefined
  const all = [...p.source]
  const rest = all.slice(p.offset).join('')
  const word = /^\.?[\p{L}\p{N}_]+|^.?/u.exec(rest)?.[0] ?? ''
  return [all.slice(0, p.offset).join(''), word, rest.slice(word.length)]
})

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
      <code
        v-if="place"
        :aria-label="`at character ${finding.position!.offset + 1} of ${finding.position!.source}`"
        >{{ place[0] }}<mark>{{ place[1] }}</mark
        >{{ place[2] }}</code
      >
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
code {
  font-size: 0.85rem;
  margin-right: 0.3rem;
}
mark {
  background: none;
  color: inherit;
  text-decoration: underline wavy var(--bad) 1px;
  text-underline-offset: 3px;
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
