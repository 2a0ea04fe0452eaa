<script setup lang="ts">
import { computed } from 'vue'
import type { Draft } from './draft'
import { useReadying } from './readying'

/** Whether what was changed is in the draft, and how far a long change is. */
const props = defineProps<{ doc: Pick<Draft, 'waiting' | 'lost'> }>()
const waiting = computed(() => props.doc.waiting.value > 0)
const lost = computed(() => waiting.value && props.doc.lost.value)
const far = useReadying(computed(() => waiting.value && !lost.value))
</script>

<template>
  <span :class="lost ? 'bad' : 'muted'" aria-live="polite">
    {{ lost ? 'not sent yet' : far || (waiting ? 'saving …' : 'draft, saved') }}
  </span>
</template>
