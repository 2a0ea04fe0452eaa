<script setup lang="ts">
import { toRef } from 'vue'
import { useReadying } from './readying'

/** Whether what was changed is in the draft, and how far a long change is. */
const props = defineProps<{ saving: boolean }>()
const far = useReadying(toRef(props, 'saving'))
</script>

<template>
  <span class="muted" aria-live="polite">{{ far || (saving ? 'saving …' : 'draft, saved') }}</span>
</template>
