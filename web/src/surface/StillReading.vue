<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { ref, watch } from 'vue'

/** Says what is still being read when that takes long, and lets it be stopped. */
const props = defineProps<{ busy: boolean; what: string }>()
const emit = defineEmits<{ stop: [] }>()
const long = ref(false)
const { start, stop } = useTimeoutFn(() => (long.value = true), 800, { immediate: false })
watch(
  () => props.busy,
  (busy) => {
    long.value = false
    if (busy) start()
    else stop()
  },
  { immediate: true },
)
</script>

<template>
  <p v-if="long" class="muted" role="status">
    Still reading {{ what }}. <button type="button" class="plain link" @click="emit('stop')">Stop</button>
  </p>
</template>

<style scoped>
p {
  margin: 0.3rem 0;
}
</style>
