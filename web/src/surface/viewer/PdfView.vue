<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import type { PDFDocumentProxy } from 'pdfjs-dist'
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { find, type Found, openPdf, textOf } from './pdf'
import PdfPage from './PdfPage.vue'
import ZoomBar from './ZoomBar.vue'

/** A PDF: all its pages one below the other, larger or smaller, and where words stand in it. */
const props = defineProps<{ data: ArrayBuffer }>()
const pdf = shallowRef<PDFDocumentProxy | null>(null)
const failed = ref(false)
const zoom = ref(1)
const room = ref<HTMLElement | null>(null)
const words = ref('')
const found = shallowRef<Found[]>([])
const at = ref(0)
const looked = ref(false)
const current = computed(() => found.value[at.value] ?? null)

/** The first page as wide as there is room. */
async function fit(): Promise<void> {
  const page = await pdf.value?.getPage(1)
  if (page && room.value) zoom.value = (room.value.clientWidth - 20) / page.getViewport({ scale: 1 }).width
}

watch(
  () => props.data,
  async (data) => {
    failed.value = false
    try {
      pdf.value = await openPdf(data.slice(0))
      await fit()
    } catch {
      failed.value = true
    }
  },
  { immediate: true },
)
onUnmounted(() => void pdf.value?.loadingTask.destroy())

const search = useDebounceFn(async () => {
  const text = words.value
  const all: Found[] = []
  const of = pdf.value
  for (let page = 1; of && text.trim() && page <= of.numPages; page++) {
    all.push(...find(await textOf(of, page), text, page))
    if (words.value !== text) return
  }
  found.value = all
  at.value = 0
  looked.value = !!text.trim()
  show()
}, 250)
watch(words, () => void search())

/** The page in question comes into sight, and marks the place once it is drawn. */
function show(): void {
  const page = current.value?.page
  if (page) room.value?.querySelector(`[data-page="${page}"]`)?.scrollIntoView({ block: 'nearest' })
}

function go(by: number): void {
  if (!found.value.length) return
  at.value = (at.value + by + found.value.length) % found.value.length
  show()
}
</script>

<template>
  <p v-if="failed" class="bad" role="alert">
    This PDF cannot be read; it may be damaged. Download it to try another program.
  </p>
  <div v-else class="pdf">
    <div class="bar">
      <ZoomBar v-model="zoom" @fit="fit" />
      <span v-if="pdf" class="muted">{{ pdf.numPages }} {{ pdf.numPages === 1 ? 'page' : 'pages' }}</span>
      <input
        v-model="words"
        type="search"
        class="p-inputtext p-component p-inputtext-sm"
        placeholder="Look for words"
        aria-label="Look for words in the document"
        @keydown.enter.prevent="go($event.shiftKey ? -1 : 1)"
      />
      <span v-if="looked" class="muted" role="status">
        {{ found.length ? `${at + 1} of ${found.length}` : 'Not found' }}
      </span>
    </div>
    <div ref="room" class="room" tabindex="0" aria-label="Pages">
      <template v-if="pdf">
        <PdfPage
          v-for="n in pdf.numPages"
          :key="n"
          :pdf="pdf"
          :number="n"
          :zoom="zoom"
          :found="current?.page === n ? current : null"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3rem 0.8rem;
  margin-bottom: 0.4rem;
}
.bar input {
  width: 11rem;
}
.room {
  overflow: auto;
  max-height: 70vh;
  min-height: 12rem;
  background: var(--line);
  padding: 0.6rem 0;
}
</style>
