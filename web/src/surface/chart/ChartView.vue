<script setup lang="ts">
import { computed, ref, shallowRef, useId } from 'vue'
import type { ChartPartView, Look } from '@/api/types'
import { useRouter } from 'vue-router'
import FloatPanel from '@/frame/FloatPanel.vue'
import type { Asking } from '../table/asking'
import ProofPanel from '../table/ProofPanel.vue'
import { totalWords } from '../table/words'
import ChartDrawing from './ChartDrawing.vue'
import ChartFigures from './ChartFigures.vue'
import type { Pressed } from './drawing'
import { headingsOf, type Mark, narrowed, type Picked } from './series'

/** Records drawn in groups or as dots. What is pressed narrows what the page tells to follow it, or is proved. */
const props = defineProps<{
  view: ChartPartView
  label?: string
  ask: Asking
  /** Where a record opens, if it does. */
  open: (id: number) => string | null
}>()
const held = defineModel<Picked | null>({ default: null })
const headings = computed(() => headingsOf(props.view))
const asTable = ref(false)
const titled = useId()
const router = useRouter()

const labelOf = (path: string) => (headings.value.get(path)?.label ?? path).toLowerCase()
/** What it shows, where the builder does not say it. */
const says = computed(() => {
  if (props.view.dots) {
    const [across, up] = props.view.headings
    return `${up.label} by ${across.label.toLowerCase()}`
  }
  const { group: by, totals } = props.view.look
  const total = totals?.[0]
  const what = total ? totalWords(total, headings.value.get(total.path)) : 'how many'
  const fields = [by, by?.then].flatMap((g) => (g ? [labelOf(g.path)] : []))
  return `${what} by ${fields.join(' and ')}`
})

const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null)
const picked = (mark: Mark): boolean =>
  !!held.value &&
  !held.value.dot &&
  same(held.value.within, mark.group.key) &&
  same(held.value.deeper, mark.group.then)

function pick(mark: Mark): void {
  const { within, deeper } = narrowed({}, mark.group)
  held.value = picked(mark) ? null : { within, deeper }
}

const proof = ref<InstanceType<typeof FloatPanel> | null>(null)
const proved = shallowRef<Look>({})

function prove(mark: Mark, event: Event): void {
  proved.value = narrowed(props.view.look, mark.group)
  proof.value?.toggle(event)
}

function press({ mark, record }: Pressed, event: Event): void {
  if (record && props.view.gives) held.value = held.value?.dot === record ? null : { dot: record }
  else if (record) {
    const address = props.open(record)
    if (address) void router.push(address)
  } else if (mark && props.view.gives) pick(mark)
  else if (mark) prove(mark, event)
}

const empty = computed(() =>
  props.view.dots ? !props.view.dots.rows.length : !props.view.charted?.groups.length,
)
</script>

<template>
  <section :aria-labelledby="titled">
    <header>
      <h3 :id="titled">{{ label || says }}</h3>
      <span v-if="label" class="muted small">{{ says }}</span>
      <button v-if="held" type="button" class="plain link" @click="held = null">Show all</button>
      <button
        v-if="!view.dots && !empty"
        type="button"
        class="plain link way"
        :aria-pressed="asTable"
        @click="asTable = !asTable"
      >
        {{ asTable ? 'As a drawing' : 'As a table' }}
      </button>
    </header>
    <p v-if="empty" class="muted">There is nothing to draw.</p>
    <ChartFigures
      v-else-if="asTable"
      :view="view"
      :gives="!!view.gives"
      :picked="picked"
      @pick="pick"
      @prove="prove"
    />
    <ChartDrawing v-else :view="view" :says="says" :picked="picked" @press="press" />
    <p v-if="view.charted?.more" class="care">There are more groups than are drawn.</p>
    <p v-if="view.dots?.next" class="care">
      There are more records than are drawn; these are the first {{ view.dots.rows.length.toLocaleString() }}.
    </p>
    <FloatPanel ref="proof" aria-label="Proof">
      <ProofPanel
        :ask="ask"
        :look="proved"
        :heading-of="(path) => headings.get(path)"
        :converts="view.converts ?? ''"
        :open="open"
      />
    </FloatPanel>
  </section>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 0.8rem;
}
h3 {
  margin: 0;
}
.small {
  font-size: 0.9rem;
}
.way {
  margin-left: auto;
}
</style>
