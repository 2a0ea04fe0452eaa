<script setup lang="ts">
import { IconArrowDownRight, IconArrowUpRight } from '@tabler/icons-vue'
import { computed, ref, shallowRef } from 'vue'
import type { Heading, Look } from '@/api/types'
import { format } from '@/fields/fields'
import FloatPanel from '@/frame/FloatPanel.vue'
import type { PartProps } from './parts'
import { asking } from './table/asking'
import ProofPanel from './table/ProofPanel.vue'
import { totalWords } from './table/words'

/** One number over a list, what it is compared with, and where both come from. */
defineOptions({ inheritAttrs: false })
const props = defineProps<PartProps>()
const figure = computed(() => props.part.figure!)
type Reckoned = Pick<NonNullable<typeof props.part.figure>, 'count' | 'total'>

function shown(f: Reckoned): string {
  if (!f.total) return f.count.toLocaleString()
  const type = f.total.type
  const heading = { ...figure.value.heading, type } as Heading
  return f.total.values.map((v) => format(heading, v)).join(' + ') || '–'
}

/** What the number is, where the builder does not call it something. */
const words = computed(() => {
  const total = figure.value.look.totals?.[0]
  return total ? totalWords(total, figure.value.heading) : 'records'
})

const change = computed(() => Number(figure.value.change || 0))
const percent = computed(
  () => Math.abs(change.value).toLocaleString(undefined, { maximumFractionDigits: 1 }) + ' %',
)
/** Whether the change is good news, in a word besides the colour. */
const news = computed(() => {
  if (!figure.value.good || !change.value) return ''
  return change.value > 0 === (figure.value.good === 'more') ? 'good' : 'bad'
})

const proof = ref<InstanceType<typeof FloatPanel> | null>(null)
/** Which of the lists is proved, by its key. */
const proved = shallowRef<{ list: string; look: Look }>({ list: '', look: {} })
const asks = computed(() =>
  asking(
    () => props.source,
    () => props.part.key + proved.value.list,
  ),
)

function prove(list: string, event: Event): void {
  proved.value = { list, look: figure.value.look }
  proof.value?.toggle(event)
}
</script>

<template>
  <section class="figure">
    <p class="label">{{ part.label || words }}</p>
    <button type="button" class="plain number" title="How it is made" @click="prove('', $event)">
      {{ shown(figure) }}
    </button>
    <p v-if="part.label && figure.look.totals" class="muted small">{{ words }}</p>
    <p v-if="figure.against" class="small" :class="news">
      <template v-if="change">
        <IconArrowUpRight v-if="change > 0" :size="16" aria-hidden="true" />
        <IconArrowDownRight v-else :size="16" aria-hidden="true" />
        {{ percent }} {{ change > 0 ? 'more' : 'less' }} than
      </template>
      <template v-else-if="figure.change">as</template>
      <template v-else>against</template>
      {{ figure.called || 'before' }},
      <button type="button" class="plain was" title="How it is made" @click="prove('.against', $event)">
        {{ shown(figure.against) }}</button><template v-if="news"
        >: {{ news === 'good' ? 'better' : 'worse' }}</template
      >
    </p>
    <FloatPanel ref="proof" aria-label="Proof">
      <ProofPanel
        :key="proved.list"
        :heading-of="() => figure.heading"
        :converts="figure.converts ?? ''"
        :ask="asks"
        :look="proved.look"
        :open="(id) => source.recordAddress(figure.object, id)"
      />
    </FloatPanel>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
.label {
  color: var(--muted);
}
.number {
  font-size: 2rem;
  font-weight: 650;
  line-height: 1.25;
  font-variant-numeric: tabular-nums;
}
.number,
.was {
  text-decoration: underline dotted;
  text-decoration-thickness: 1px;
  text-underline-offset: 4px;
}
.small {
  font-size: 0.9rem;
}
svg {
  vertical-align: -3px;
}
</style>
