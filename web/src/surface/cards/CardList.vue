<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { given, seated } from '@/api/client'
import { useDoing } from '@/api/doing'
import { latest } from '@/api/latest'
import type { CardSourceView, CardsPage, CardsView, CardView, Look, PartView, RowView } from '@/api/types'
import FloatPanel from '@/frame/FloatPanel.vue'
import { useChanges } from '../changes'
import { nothing } from '../selection'
import type { SurfaceSource } from '../source'
import { asking } from '../table/asking'
import { useButtons } from '../table/buttons'
import ProofPanel from '../table/ProofPanel.vue'
import CardItem from './CardItem.vue'

/** The records of several lists in one order, read a part at a time; those of one list can be looked at alone. */
const props = defineProps<{ part: PartView; cards: CardsView; source: SurfaceSource }>()
const emit = defineEmits<{ written: [] }>()
const page = shallowRef<CardsPage>(props.cards.cards)
const only = ref('')
const { failed, busy, attempt } = useDoing()
const question = latest()

/** The most cards that are read again at once, so that the place is kept. */
const atOnce = 500

function read(after: string, size?: number): Promise<boolean> {
  const isLatest = question.ask()
  return attempt(async () => {
    const body = {
      at: props.source.at(props.part.key),
      after,
      size,
      only: only.value ? [only.value] : undefined,
    }
    const found = await given(
      seated(props.source.base).POST('/tables/cards', { body, signal: isLatest.signal }),
    )
    if (!isLatest()) return
    // Lists that are at their end are not read any more, but still looked at.
    const { reads, cards } = page.value
    page.value = after ? { ...found, reads, cards: [...cards, ...found.cards] } : found
  })
}

const again = () => read('', Math.min(atOnce, Math.max(50, page.value.cards.length)))
// The page was read anew: what it has is shown, unless one list is looked at alone.
watch(
  () => props.cards.cards,
  (cards) => (only.value ? void again() : (page.value = cards)),
)
watch(only, () => void read(''))

const changed = useDebounceFn(again, 400)
if (!props.source.at(props.part.key).rehearsal)
  useChanges(props.source.base, ({ object }) => {
    if (!object || page.value.reads.includes(object)) void changed()
  })

/** What pressing a card of a list does is a button of that list, for the record alone. */
function presses(of: CardSourceView) {
  const key = `${props.part.key}.${of.key}`
  const part = computed<PartView>(() => ({
    key,
    kind: 'table',
    label: of.label,
    table: {
      object: of.object,
      select: 'none',
      buttons: of.buttons,
      chosen: [],
      rows: { columns: [], rows: [], total: 0, counted: true },
    },
  }))
  const ask = asking(
    () => props.source,
    () => key,
  )
  const table = {
    rows: computed<RowView[]>(() => []),
    look: computed<Look>(() => ({})),
    again,
  }
  const none = () => ({ selection: nothing(), count: 0 })
  return {
    ask,
    ...useButtons(
      () => part.value,
      table,
      ask,
      () => props.source,
      none,
      () => emit('written'),
    ),
  }
}
const lists = props.cards.sources.map((of) => ({ of, ...presses(of) }))

const button = (card: CardView) => {
  const { of, each } = lists[card.source]
  return each.value.find((b) => b.key === of.faces[card.face].press)
}

function press(card: CardView): void {
  const b = button(card)
  if (b) lists[card.source].press(b, card.id)
}

function holds(card: CardView): string {
  const b = button(card)
  return b ? lists[card.source].holds(b, card.id) || '' : ''
}

const proof = ref<InstanceType<typeof FloatPanel> | null>(null)
const alone = computed(() => lists.find((l) => l.of.key === only.value))
</script>

<template>
  <section :aria-label="part.label">
    <div class="head">
      <h3>{{ part.label }}</h3>
      <span v-if="lists.length > 1" class="lists" role="group" aria-label="Which are shown">
        <button type="button" class="plain link" :aria-pressed="!only" @click="only = ''">All</button>
        <button
          v-for="l in lists"
          :key="l.of.key"
          type="button"
          class="plain link"
          :aria-pressed="only === l.of.key"
          @click="only = l.of.key"
        >
          {{ l.of.label }}
        </button>
      </span>
      <button
        v-if="alone || lists.length === 1"
        type="button"
        class="plain link proof"
        @click="proof?.toggle($event)"
      >
        Where they come from
      </button>
    </div>
    <p v-if="failed" class="bad" role="alert">
      {{ failed }}
      <button type="button" class="plain link" @click="again">Try again</button>
    </p>
    <p v-if="!page.cards.length" class="muted">
      {{ cards.nothing || 'There is nothing in this list.' }}
    </p>
    <ul :class="cards.shown">
      <li v-for="c in page.cards" :key="`${c.source} ${c.id}`">
        <CardItem
          :card="c"
          :of="lists[c.source].of"
          :source="source"
          :several="lists.length > 1"
          :holds="holds(c)"
          @press="press(c)"
        />
      </li>
    </ul>
    <button v-if="page.next" type="button" class="plain link" :disabled="busy" @click="read(page.next)">
      Read on
    </button>
    <FloatPanel ref="proof" aria-label="Proof">
      <ProofPanel
        :key="only"
        :ask="(alone ?? lists[0]).ask"
        :look="{}"
        :heading-of="() => undefined"
        converts=""
        :open="(id) => source.recordAddress((alone ?? lists[0]).of.object, id)"
      />
    </FloatPanel>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 1rem;
}
h3 {
  margin: 0;
}
.lists {
  display: flex;
  flex-wrap: wrap;
  gap: 0 0.8rem;
}
.lists [aria-pressed='true'] {
  color: var(--ink);
  text-decoration: none;
  font-weight: 600;
}
.proof {
  margin-left: auto;
}
ul {
  list-style: none;
  margin: 0.4rem 0;
  padding: 0;
}
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(17rem, 100%), 1fr));
  gap: 0 1.6rem;
}
li {
  border-top: 1px solid var(--line);
  padding: 0.5rem 0 0.6rem;
  min-width: 0;
}
</style>
