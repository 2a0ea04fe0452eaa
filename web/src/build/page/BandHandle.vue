<script setup lang="ts">
import Button from 'primevue/button'
import { ref } from 'vue'
import type { Band, KnownSearch } from '@/api/types'
import FloatPanel from '@/frame/FloatPanel.vue'
import BandSettings from '../part/BandSettings.vue'

/** Where a band of a live page is said something of. */
const props = defineProps<{ bands: Band[]; index: number; searches: KnownSearch[] }>()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
</script>

<template>
  <div class="handle">
    <Button
      text
      size="small"
      severity="secondary"
      :label="props.bands[index]?.title ? `Band “${props.bands[index].title}”` : `Band ${index + 1}`"
      @click="panel?.toggle($event)"
    />
    <FloatPanel ref="panel" aria-label="What is said of the band">
      <BandSettings :bands="bands" :index="index" owner="" place="" :searches="searches" />
    </FloatPanel>
  </div>
</template>

<style scoped>
.handle {
  display: flex;
  justify-content: flex-end;
  height: 0;
  overflow: visible;
}
.handle :deep(.p-button) {
  position: relative;
  top: -1.7rem;
  height: 1.6rem;
  z-index: 3;
}
.handle :deep(.p-button-label) {
  color: var(--muted);
  font-size: 0.8rem;
}
</style>
