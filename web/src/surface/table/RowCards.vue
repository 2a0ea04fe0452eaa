<script setup lang="ts">
import { computed, ref } from 'vue'
import { useDoing } from '@/api/doing'
import type { PartView, RowView } from '@/api/types'
import FloatPanel from '@/frame/FloatPanel.vue'
import CellValue from '@/fields/CellValue.vue'
import { nothing } from '../selection'
import type { SurfaceSource } from '../source'
import type { Asking } from './asking'
import { useButtons } from './buttons'
import MarkWord from './MarkWord.vue'
import { useOpening } from './opening'
import OpeningState from './OpeningState.vue'
import PressButton from './PressButton.vue'
import ProofPanel from './ProofPanel.vue'

/** The records of a row, each on a card: the first column at its head, the others below. */
const props = defineProps<{ part: PartView; source: SurfaceSource; ask: Asking }>()
const proof = ref<InstanceType<typeof FloatPanel> | null>(null)
const rest = ref<RowView[]>([])
const next = ref('')
const { failed, attempt } = useDoing()
const opening = useOpening(async () => {
  const page = await props.ask.rows({})
  next.value = page.next ?? ''
  return page
})

const rows = computed(() => [...(opening.found.value?.rows ?? []), ...rest.value])

/** What was pressed may have changed any of them. */
async function again(): Promise<boolean> {
  rest.value = []
  await opening.again()
  return !opening.failed.value
}
// On cards nothing is chosen: their buttons are about one record, or about all of the list.
const buttons = useButtons(
  () => props.part,
  { rows, look: computed(() => ({})), again },
  props.ask,
  () => props.source,
  () => ({ selection: nothing(), count: 0 }),
  () => undefined,
)
const ofAll = computed(() => buttons.above.value.filter((b) => b.on === 'table'))

const more = () =>
  attempt(async () => {
    const page = await props.ask.rows({ after: next.value })
    rest.value = [...rest.value, ...page.rows]
    next.value = page.next ?? ''
  })

const address = (row: RowView) => props.source.recordAddress(props.part.table!.object, row.id)
const target = props.source.beside ? '_blank' : undefined
</script>

<template>
  <OpeningState v-if="!opening.found.value" :opening="opening" />
  <section v-else :aria-label="part.label">
    <h2>
      {{ part.label }}
      <button type="button" class="plain count" title="Where they come from" @click="proof?.toggle($event)">
        <template v-if="!opening.found.value.counted">more than</template>
        {{ opening.found.value.total.toLocaleString() }}
      </button>
      <PressButton v-for="b in ofAll" :key="b.key" :button="b" :buttons="buttons" class="of-all" />
    </h2>
    <p v-if="!opening.found.value.total" class="muted">
      {{ part.table!.nothing || 'There is nothing in this list.' }}
    </p>
    <ul class="cards">
      <li v-for="row in rows" :key="row.id" class="card">
        <template v-for="(c, i) in opening.found.value.columns" :key="c.path">
          <strong v-if="i === 0">
            <RouterLink v-if="address(row)" :to="address(row)!" :target="target"
              ><CellValue :heading="c" :value="row.cells[i]"
            /></RouterLink>
            <CellValue v-else :heading="c" :value="row.cells[i]" />
          </strong>
          <span v-else-if="row.cells[i] !== null" class="line"
            ><span class="muted">{{ c.label }}</span
            >&ensp;<CellValue :heading="c" :value="row.cells[i]" :source="source"
          /></span>
        </template>
        <span v-if="buttons.each.value.length" class="does">
          <PressButton
            v-for="b in buttons.each.value"
            :key="b.key"
            :button="b"
            :buttons="buttons"
            :row="row.id"
            :tabindex="0"
          />
        </span>
        <span v-if="row.marks?.length"><MarkWord v-for="m in row.marks" :key="m.says" :mark="m" /></span>
      </li>
    </ul>
    <FloatPanel ref="proof" aria-label="Proof"
      ><ProofPanel :ask="ask" :look="{}" :heading-of="() => undefined" converts="" :open="() => null"
    /></FloatPanel>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <button v-if="next" type="button" class="plain link" @click="more">Read on</button>
  </section>
</template>

<style scoped>
.cards {
  list-style: none;
  margin: 0.4rem 0 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(14rem, 1fr));
  gap: 0 1.6rem;
  max-height: 22rem;
  overflow: auto;
}
.card {
  display: flex;
  flex-direction: column;
  gap: 0.1rem;
  padding: 0.5rem 0 0.6rem;
  border-top: 1px solid var(--line);
  min-width: 0;
}
.does {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  margin-top: 0.2rem;
}
.of-all {
  margin-left: 0.8rem;
}
.line {
  overflow-wrap: anywhere;
}
.count {
  color: var(--muted);
  text-decoration: underline dotted;
  text-underline-offset: 3px;
  font-weight: 400;
  font-size: 1rem;
}
</style>
