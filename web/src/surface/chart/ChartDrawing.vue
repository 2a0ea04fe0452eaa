<script setup lang="ts">
import type { Chart } from 'chart.js'
import { computed, onUnmounted, ref, watchPostEffect } from 'vue'
import type { ChartPartView } from '@/api/types'
import { useDarkness } from '@/frame/darkness'
import { draw, type Pressed } from './drawing'
import { drawn, type Mark } from './series'

/** The drawing itself. What it says stands in a table, too. */
const props = defineProps<{ view: ChartPartView; says: string; picked: (mark: Mark) => boolean }>()
const emit = defineEmits<{ press: [pressed: Pressed, event: Event] }>()
const dark = useDarkness()
const canvas = ref<HTMLCanvasElement | null>(null)
let chart: Chart | undefined

const height = computed(() => {
  if (props.view.drawn !== 'bars') return '18rem'
  const { places, series } = drawn(props.view)
  const each = props.view.beside ? Math.max(1, series.length) : 1
  return `${4 + places.length * (0.9 + each * 0.8)}rem`
})

watchPostEffect(() => {
  chart?.destroy()
  if (!canvas.value) return
  chart = draw(canvas.value, props.view, {
    dark: dark.value,
    picked: props.picked,
    press: (pressed, event) => emit('press', pressed, event),
  })
})
onUnmounted(() => chart?.destroy())
</script>

<template>
  <div class="drawing" :style="{ height }">
    <canvas ref="canvas" role="img" :aria-label="says" />
  </div>
</template>

<style scoped>
.drawing {
  position: relative;
  min-width: 0;
}
</style>
