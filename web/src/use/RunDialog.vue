<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { defineAsyncComponent } from 'vue'
import type { Run } from '@/api/types'

const RunPage = defineAsyncComponent(() => import('./RunPage.vue'))

/** A walkthrough in a dialog; closing it leaves it unfinished, to be gone on with later. */
const run = defineModel<Run | null>({ required: true })
const emit = defineEmits<{ over: [] }>()

function over(): void {
  run.value = null
  emit('over')
}
</script>

<template>
  <Dialog :visible="!!run" modal :header="run?.label" :style="{ width: '46rem' }" @update:visible="over">
    <RunPage v-if="run" :id="run.id" dialog @done="over" />
  </Dialog>
</template>
