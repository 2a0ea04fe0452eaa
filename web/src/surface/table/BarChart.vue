<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import type { Chart, Figure, Heading, Look, PartView } from '@/api/types'
import FloatPanel from '@/frame/FloatPanel.vue'
import { format } from '@/fields/fields'
import type { SurfaceSource } from '../source'
import type { Asking } from './asking'
import { useOpening } from './opening'
import OpeningState from './OpeningState.vue'
import ProofPanel from './ProofPanel.vue'
import { groupWords, totalWords } from './words'

/** A bar for each group: how many records it has, or a total of theirs. */
const props = defineProps<{ part: PartView; chart: Chart; source: SurfaceSource; ask: Asking }>()
const label = computed(() => props.part.label ?? '')
const proof = ref<InstanceType<typeof FloatPanel> | null>(null)
const proved = shallowRef<Look>({})

/** Where a bar comes from: the proof of its group. */
function prove(key: unknown, event: Event): void {
  const { by, total } = props.chart
  proved.value = { group: by, within: key ?? null, totals: total ? [total] : [] }
  proof.value?.toggle(event)
}

// The fields it speaks of, by path, as far as they lead across references.
const headings = shallowRef(new Map<string, Heading>())
const opening = useOpening(async () => {
  const { by, total } = props.chart
  const paths = [by.path, ...(total ? [total.path] : [])]
  const through = new Set(paths.map((p) => p.split('.').slice(0, -1).join('.')))
  const [groups, ...fields] = await Promise.all([
    props.ask.groups({ group: by, totals: total ? [total] : [] }),
    ...[...through].map((t) => props.ask.fields(t)),
  ])
  headings.value = new Map(fields.flatMap((f) => f.fields.map((h) => [h.path, h])))
  return groups
})

interface Bar {
  key: unknown
  name: string
  /** Amounts of each currency have bars of their own, as long as among their like. */
  unit: string
  says: string
  size: number
}

/** A figure as a length: the digits suffice for drawing, what is said stays exact. */
function length(f: Figure, v: unknown): { unit: string; size: number } {
  if (f.type !== 'money') return { unit: '', size: Number(v) }
  const m = v as { amount: string; currency: string }
  return { unit: m.currency, size: Number(m.amount) }
}

const bars = computed<Bar[]>(() =>
  (opening.found.value?.groups ?? []).flatMap((g) => {
    const name = groupWords(g, props.chart.by, headings.value.get(props.chart.by.path))
    const figure = g.totals[0]
    if (!figure) return [{ key: g.key, name, unit: '', says: g.count.toLocaleString(), size: g.count }]
    if (!figure.values.length) return [{ key: g.key, name, unit: '', says: '–', size: 0 }]
    return figure.values.map((v) => ({
      key: g.key,
      name,
      says: format({ ...headings.value.get(figure.path), type: figure.type }, v),
      ...length(figure, v),
    }))
  }),
)
const most = computed(() => {
  const out: Record<string, number> = {}
  for (const b of bars.value) out[b.unit] = Math.max(out[b.unit] ?? 0, Math.abs(b.size))
  return out
})
const share = (b: Bar) => (most.value[b.unit] ? (100 * Math.abs(b.size)) / most.value[b.unit] : 0)
const of = computed(() => {
  const { by, total } = props.chart
  const grouped = (headings.value.get(by.path)?.label ?? by.path).toLowerCase()
  return (total ? totalWords(total, headings.value.get(total.path)) : 'how many') + ' by ' + grouped
})
</script>

<template>
  <OpeningState v-if="!opening.found.value" :opening="opening" />
  <section v-else :aria-label="label">
    <h2>
      {{ label }} <span class="muted of">{{ of }}</span>
    </h2>
    <p v-if="!bars.length" class="muted">There is nothing to draw.</p>
    <table v-else class="chart">
      <tbody>
        <tr v-for="(b, i) in bars" :key="i">
          <th scope="row">{{ b.name }}</th>
          <td class="room">
            <span class="bar" :class="{ below: b.size < 0 }" :style="{ width: share(b) + '%' }" />
          </td>
          <td>
            <button
              type="button"
              class="plain says"
              title="Where it comes from"
              @click="prove(b.key, $event)"
            >
              {{ b.says }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <FloatPanel ref="proof" aria-label="Proof"
      ><ProofPanel
        :ask="ask"
        :look="proved"
        :heading-of="(path) => headings.get(path)"
        converts=""
        :open="(id) => source.recordAddress(part.table!.object, id)"
    /></FloatPanel>
    <p v-if="opening.found.value.more" class="care">There are more groups than the bars shown.</p>
  </section>
</template>

<style scoped>
.of {
  font-weight: 400;
  font-size: 1rem;
}
.chart {
  margin-top: 0.4rem;
  width: auto;
}
th {
  font-weight: 400;
  text-align: left;
  padding: 0.15rem 0.8rem 0.15rem 0;
}
td {
  padding: 0.15rem 0;
}
.room {
  width: 22rem;
}
.bar {
  display: block;
  height: 0.85rem;
  min-width: 1px;
  background: var(--accent);
}
.bar.below {
  background: none;
  border: 1px solid var(--accent);
}
.says {
  margin-left: 0.6rem;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
  font-variant-numeric: tabular-nums;
}
</style>
