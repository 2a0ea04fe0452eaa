<script setup lang="ts">
import { computed } from 'vue'
import type { Draft } from './draft'
import { useReadying } from './readying'

/** Whether what was changed is in the draft, how far a long change is, and what could not be sent. */
const props = defineProps<{ doc: Pick<Draft, 'waiting' | 'lost' | 'now'> }>()
const waiting = computed(() => props.doc.waiting.value)
const far = useReadying(computed(() => waiting.value > 0 && !props.doc.lost.value))
</script>

<template>
  <span v-if="doc.lost.value && waiting" class="bad" role="status">
    {{ waiting }} {{ waiting === 1 ? 'change waits' : 'changes wait' }}: the server does not answer
    <button type="button" class="plain link" @click="doc.now()">Try now</button>
  </span>
  <span v-else class="muted" aria-live="polite">{{ far || (waiting ? 'saving …' : 'draft, saved') }}</span>
</template>
