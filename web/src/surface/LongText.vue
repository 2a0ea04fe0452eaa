<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { ref, watch } from 'vue'

/** A text of which the first lines are shown where it has many. */
const props = defineProps<{ text: string }>()
const body = ref<HTMLElement | null>(null)
const open = ref(false)
const cut = ref(false)

/** Whether it is longer than what is shown, as wide as it is just now. */
function measure(): void {
  const el = body.value
  if (el && !open.value) cut.value = el.scrollHeight > el.clientHeight + 1
}
useResizeObserver(body, measure)
watch(
  () => props.text,
  () => (open.value = false),
)
</script>

<template>
  <span ref="body" class="body" :class="{ open }">{{ text }}</span>
  <button v-if="cut" type="button" class="plain link" :aria-expanded="open" @click="open = !open">
    {{ open ? 'less' : 'more' }}
  </button>
</template>

<style scoped>
.body {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 4;
  line-clamp: 4;
  overflow: hidden;
}
.open {
  display: block;
}
</style>
