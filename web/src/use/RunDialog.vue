<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { defineAsyncComponent } from 'vue'
import type { Run } from '@/api/types'
import { mayLeave, useUnsavedScope } from '@/surface/unsaved'

const RunPage = defineAsyncComponent(() => import('./RunPage.vue'))

/** A walkthrough in a dialog; closing it leaves it unfinished, to be gone on with later. */
const run = defineModel<Run | null>({ required: true })
const emit = defineEmits<{ over: [] }>()

const left = useUnsavedScope()

async function leave(): Promise<void> {
  if (await mayLeave(left())) over()
}

function over(): void {
  run.value = null
  emit('over')
}
</script>

<template>
  <Dialog :visible="!!run" modal :header="run?.label" :style="{ width: '46rem' }" @update:visible="leave">
    <RunPage v-if="run" :id="run.id" dialog @done="over" />
  </Dialog>
</template>
