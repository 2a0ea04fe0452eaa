<script setup lang="ts">
import type { Confirm } from '@/api/types'
import TextSlot from '../sheet/TextSlot.vue'

/** Asks the person whether to go on. */
const confirm = defineModel<Confirm>({ required: true })
</script>

<template>
  <TextSlot
    :model-value="confirm.question"
    label="What it asks"
    @update:model-value="confirm = { ...confirm, question: $event }"
  />
  <div class="row muted">
    and goes on with the button
    <TextSlot
      :model-value="confirm.yes ?? ''"
      label="What the button says that goes on"
      placeholder="Go on"
      @update:model-value="confirm = { ...confirm, yes: $event || undefined }"
    />
  </div>
</template>
