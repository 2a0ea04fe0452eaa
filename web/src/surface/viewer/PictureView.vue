<script setup lang="ts">
import { ref } from 'vue'
import ZoomBar from './ZoomBar.vue'

/** A picture, larger or smaller. */
defineProps<{ address: string; name: string }>()
const zoom = ref(1)
const room = ref<HTMLElement | null>(null)
const own = ref({ width: 0, height: 0 })
const failed = ref(false)

/** As large as there is room, and no larger than it is. */
function fit(): void {
  if (room.value && own.value.width) zoom.value = Math.min(1, (room.value.clientWidth - 4) / own.value.width)
}

function loaded(event: Event): void {
  const image = event.target as HTMLImageElement
  own.value = { width: image.naturalWidth, height: image.naturalHeight }
  fit()
}
</script>

<template>
  <p v-if="failed" class="bad" role="alert">This picture cannot be read; it may be damaged.</p>
  <template v-else>
    <ZoomBar v-model="zoom" @fit="fit" />
    <div ref="room" class="room" tabindex="0" :aria-label="name">
      <img
        :src="address"
        :alt="name"
        :style="own.width ? { width: `${own.width * zoom}px` } : {}"
        @load="loaded"
        @error="failed = true"
      />
    </div>
  </template>
</template>

<style scoped>
.room {
  overflow: auto;
  max-height: 70vh;
}
img {
  display: block;
  max-width: none;
}
</style>
