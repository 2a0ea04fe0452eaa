<script setup lang="ts">
import Drawer from 'primevue/drawer'
import { defineAsyncComponent } from 'vue'
import { mayLeave, useUnsavedScope } from '@/surface/unsaved'
import type { Beside } from './effects'

const PagePage = defineAsyncComponent(() => import('./PagePage.vue'))

/** A page beside what is there, which stays as it is. */
const open = defineModel<Beside | null>({ required: true })
const left = useUnsavedScope()

async function leave(): Promise<void> {
  if (await mayLeave(left())) open.value = null
}
</script>

<template>
  <Drawer
    :visible="!!open"
    position="right"
    class="side"
    :pt="{ root: { style: 'width: min(44rem, 92vw)', 'aria-label': 'Beside the page' } }"
    @update:visible="leave"
  >
    <PagePage
      v-if="open"
      :key="open.page + JSON.stringify(open.taken)"
      :name="open.page"
      :taken="open.taken"
    />
  </Drawer>
</template>
