<script setup lang="ts">
import { IconCheck, IconX } from '@tabler/icons-vue'
import { computed, ref, useId } from 'vue'
import { useAsked } from '@/api/asked'
import type { Heading, Look, Ref } from '@/api/types'
import ReferenceInput from '@/fields/ReferenceInput.vue'
import type { Asking } from './asking'
import ProofFigure from './ProofFigure.vue'

/** Where the rows of a table, a group or a total come from, and why a record is among them or not. */
const props = defineProps<{
  ask: Asking
  look: Look
  /** Where a record opens, if it does. */
  open: (record: number) => string | null
  headingOf: (path: string) => Heading | undefined
  converts: string
}>()
const record = ref<Ref | null>(null)
const id = useId()
const { found: proof, failed: notProved } = useAsked(
  () => ['proof', id],
  () => props.ask.proof(props.look),
  { fresh: true },
)
const { found: why, failed: notSaid } = useAsked(
  () => ['proof of', id, record.value?.id],
  () => props.ask.proofOf(record.value!.id, props.look),
  { when: () => !!record.value?.id, fresh: true },
)
const failed = computed(() => notSaid.value || notProved.value)
const by: Record<string, string> = { rights: 'rights', search: 'the list', look: 'you' }

const n = (x: number) => x.toLocaleString()
</script>

<template>
  <div class="proof">
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <p v-else-if="!proof" class="muted" role="status">Counting, condition by condition …</p>
    <template v-if="proof">
      <table class="reckoning">
        <tbody>
          <tr>
            <td class="n">{{ n(proof.all) }}</td>
            <td>{{ proof.kind.toLowerCase() }} there are</td>
            <td />
          </tr>
          <tr v-for="(s, i) in proof.steps" :key="i">
            <td class="n">{{ n(s.left) }}</td>
            <td>where {{ s.words }}</td>
            <td class="muted">{{ by[s.by] }}</td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td class="n">{{ n(proof.shown) }}</td>
            <td>shown, each of them once</td>
            <td class="muted">{{ (proof.micros / 1000).toFixed(1) }} ms</td>
          </tr>
        </tfoot>
      </table>
      <ProofFigure
        v-for="(f, i) in proof.figures"
        :key="i"
        :figure="f"
        :heading="headingOf(f.total.path)"
        :converts="converts"
        :open="open"
      />
      <label for="why-record">Why is this one here, or not?</label>
      <ReferenceInput id="why-record" v-model="record" :find="ask.records" placeholder="Any of the records" />
      <div v-if="why" role="status">
        <p>
          <strong>{{ why.label }}</strong> {{ why.in ? 'is in the list.' : 'is not in the list.' }}
        </p>
        <ul>
          <li v-for="(s, i) in why.steps" :key="i" :class="s.holds ? 'good' : 'bad'">
            <IconCheck v-if="s.holds" :size="15" aria-label="yes" /><IconX
              v-else
              :size="15"
              aria-label="no"
            />
            <span>
              {{ s.words }}
              <span v-for="saw in s.saw" :key="saw.label" class="muted"
                >&nbsp;· {{ saw.label }} is {{ saw.value || 'empty' }}</span
              >
            </span>
          </li>
        </ul>
        <p v-if="!why.steps.length" class="muted">Nothing keeps any record out.</p>
      </div>
      <details v-if="proof.sql">
        <summary>The search in SQL</summary>
        <pre>{{ proof.sql }}</pre>
      </details>
    </template>
  </div>
</template>

<style scoped>
.proof {
  width: 34rem;
  max-width: 90vw;
  max-height: 30rem;
  overflow: auto;
}
.reckoning td:last-child {
  text-align: right;
  white-space: nowrap;
}
p {
  margin: 0.5rem 0 0.3rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 0.6rem;
}
li {
  display: flex;
  gap: 0.4rem;
}
li svg {
  flex: none;
  margin-top: 0.2rem;
}
li > span {
  color: var(--ink);
}
details {
  margin-top: 0.6rem;
}
pre {
  white-space: pre-wrap;
  font-size: 0.8rem;
}
</style>
