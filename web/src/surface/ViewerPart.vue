<script setup lang="ts">
import { computed, defineAsyncComponent, ref, shallowRef, watch } from 'vue'
import type { PartView } from '@/api/types'
import { useFiles } from '@/fields/files'
import PictureView from './viewer/PictureView.vue'

/** A file of a record as it is; another one takes its place. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ part: Pick<PartView, 'label' | 'viewer'> }>()
const PdfView = defineAsyncComponent(() => import('./viewer/PdfView.vue'))
const SheetView = defineAsyncComponent(() => import('./viewer/SheetView.vue'))
const files = useFiles()
const file = computed(() => props.part.viewer?.file)
const address = computed(() => (file.value ? files.address(file.value.id) : ''))

type Shown =
  | { as: 'picture' | 'other' }
  | { as: 'pdf'; data: ArrayBuffer }
  | { as: 'sheet' | 'text'; text: string; cut: boolean }

const shown = shallowRef<Shown | null>(null)
const failed = ref('')
const retried = ref(0)
/** So much of a text is shown at most, in characters. */
const mostText = 500_000

async function read(res: Response): Promise<Shown> {
  const kind = (res.headers.get('Content-Type') ?? '').split(';')[0]
  if (/^image\/(png|jpeg|gif|webp)$/.test(kind)) return { as: 'picture' }
  if (kind === 'application/pdf') return { as: 'pdf', data: await res.arrayBuffer() }
  if (kind !== 'text/csv' && kind !== 'text/plain') return { as: 'other' }
  const text = await res.text()
  const as = kind === 'text/csv' || /\.csv$/i.test(file.value?.label ?? '') ? 'sheet' : 'text'
  return { as, text: text.slice(0, mostText), cut: text.length > mostText }
}

watch(
  [address, retried],
  async ([at], _was, onCleanup) => {
    const stop = new AbortController()
    onCleanup(() => stop.abort())
    shown.value = null
    failed.value = ''
    if (!at) return
    try {
      const res = await fetch(at, { signal: stop.signal })
      if (!res.ok) throw new Error()
      const found = await read(res)
      if (stop.signal.aborted) return
      if (found.as === 'picture' || found.as === 'other') void res.body?.cancel()
      shown.value = found
    } catch {
      if (!stop.signal.aborted) failed.value = 'The file could not be read.'
    }
  },
  { immediate: true },
)
</script>

<template>
  <section class="viewer" :aria-label="part.label || file?.label || 'Viewer'">
    <h2 v-if="part.label">{{ part.label }}</h2>
    <p v-if="!part.viewer?.chosen" class="muted">Nothing is chosen yet.</p>
    <p v-else-if="!file" class="muted">There is no file.</p>
    <template v-else>
      <p class="name">
        <strong>{{ file.label }}</strong>
        <a :href="address" target="_blank" rel="noopener">Open</a>
        <a :href="address" :download="file.label">Download</a>
      </p>
      <p v-if="failed" class="bad" role="alert">
        {{ failed }} <button type="button" class="plain link" @click="retried++">Try again</button>
      </p>
      <p v-else-if="!shown" class="muted" role="status">Reading …</p>
      <PictureView
        v-else-if="shown.as === 'picture'"
        :key="address"
        :address="address"
        :name="file.label ?? ''"
      />
      <PdfView v-else-if="shown.as === 'pdf'" :key="address" :data="shown.data" />
      <SheetView v-else-if="shown.as === 'sheet'" :text="shown.text" />
      <pre v-else-if="shown.as === 'text'" tabindex="0">{{ shown.text }}</pre>
      <p v-else class="muted">This kind of file is not shown here. Download it to open it.</p>
      <p v-if="shown && 'cut' in shown && shown.cut" class="care">
        This is the beginning. Download the file for all of it.
      </p>
    </template>
  </section>
</template>

<style scoped>
.name {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1rem;
  overflow-wrap: anywhere;
}
pre {
  overflow: auto;
  max-height: 70vh;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin: 0;
}
</style>
