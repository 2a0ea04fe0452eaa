<script setup lang="ts">
import { useElementVisibility } from '@vueuse/core'
import { type PDFDocumentProxy, type RenderTask, TextLayer } from 'pdfjs-dist'
import { onUnmounted, ref, shallowRef, watch } from 'vue'
import type { Found } from './pdf'

/** A page of a PDF: drawn when it comes into sight, with its text over it to be marked and copied. */
const props = defineProps<{ pdf: PDFDocumentProxy; number: number; zoom: number; found: Found | null }>()
const box = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const text = ref<HTMLElement | null>(null)
const size = ref({ width: 600, height: 800 })
const divs = shallowRef<HTMLElement[]>([])
const seen = useElementVisibility(box)
let drawing: RenderTask | undefined
let drawn = 0

async function measure(): Promise<void> {
  const { width, height } = (await props.pdf.getPage(props.number)).getViewport({ scale: props.zoom })
  size.value = { width, height }
}

async function draw(): Promise<void> {
  if (!canvas.value || !text.value || drawn === props.zoom) return
  drawn = props.zoom
  drawing?.cancel()
  const page = await props.pdf.getPage(props.number)
  const sharp = window.devicePixelRatio || 1
  const viewport = page.getViewport({ scale: props.zoom })
  const fine = page.getViewport({ scale: props.zoom * sharp })
  canvas.value.width = Math.floor(fine.width)
  canvas.value.height = Math.floor(fine.height)
  drawing = page.render({ canvas: canvas.value, viewport: fine })
  await drawing.promise.catch(() => undefined) // it was given up for another size
  if (drawn !== props.zoom || !text.value) return
  text.value.replaceChildren()
  const layer = new TextLayer({
    textContentSource: await page.getTextContent(),
    container: text.value,
    viewport,
  })
  await layer.render()
  divs.value = layer.textDivs
}

watch([() => props.zoom, () => props.pdf], () => ((drawn = 0), void measure()), { immediate: true })
watch([seen, () => props.zoom], () => seen.value && void draw(), { flush: 'post' })
watch([divs, () => props.found], ([all, found]) => {
  for (const d of all) if (d.querySelector('mark')) d.textContent = String(d.textContent)
  if (!found) return
  for (let i = found.from.piece; i <= found.to.piece; i++) {
    const d = all[i]
    const says = d?.textContent ?? ''
    const from = i === found.from.piece ? found.from.letter : 0
    const to = i === found.to.piece ? found.to.letter : says.length
    const mark = document.createElement('mark')
    mark.textContent = says.slice(from, to)
    d?.replaceChildren(says.slice(0, from), mark, says.slice(to))
  }
  all[found.from.piece]?.scrollIntoView({ block: 'center' })
})
onUnmounted(() => drawing?.cancel())
</script>

<template>
  <div
    ref="box"
    class="page"
    :data-page="number"
    :style="{
      width: `${size.width}px`,
      height: `${size.height}px`,
      '--total-scale-factor': zoom,
    }"
  >
    <canvas ref="canvas" aria-hidden="true" />
    <div ref="text" class="text" />
  </div>
</template>

<style scoped>
.page {
  position: relative;
  margin: 0 auto 0.8rem;
  background: #fff;
  border: 1px solid var(--line);
}
canvas {
  width: 100%;
  height: 100%;
  display: block;
}
.text {
  --min-font-size: 1;
  --text-scale-factor: calc(var(--total-scale-factor) * var(--min-font-size));
  --min-font-size-inv: calc(1 / var(--min-font-size));
  position: absolute;
  inset: 0;
  overflow: clip;
  line-height: 1;
  text-align: initial;
  transform-origin: 0 0;
}
.text :deep(:is(span, br)) {
  color: transparent;
  position: absolute;
  white-space: pre;
  cursor: text;
  transform-origin: 0% 0%;
}
.text :deep(span) {
  --font-height: 0;
  --scale-x: 1;
  --rotate: 0deg;
  font-size: calc(var(--text-scale-factor) * var(--font-height));
  transform: rotate(var(--rotate)) scaleX(var(--scale-x)) scale(var(--min-font-size-inv));
}
.text :deep(mark) {
  color: transparent;
  background: color-mix(in srgb, var(--care) 40%, transparent);
}
</style>
