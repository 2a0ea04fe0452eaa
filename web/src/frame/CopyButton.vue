<script setup lang="ts">
import { IconCheck, IconCopy } from '@tabler/icons-vue'
import { useClipboard } from '@vueuse/core'
import Button from 'primevue/button'

/** Copies a text, and says that it did. */
const props = defineProps<{ text: string; what: string }>()
const { copy, copied } = useClipboard({ copiedDuring: 2000, legacy: true })
</script>

<template>
  <Button
    text
    size="small"
    severity="secondary"
    :aria-label="copied ? `${what} was copied` : `Copy ${what}`"
    :title="copied ? 'Copied' : 'Copy'"
    @click.stop="copy(props.text)"
  >
    <IconCheck v-if="copied" :size="15" aria-hidden="true" />
    <IconCopy v-else :size="15" aria-hidden="true" />
  </Button>
</template>
