<script setup lang="ts">
import { computed } from 'vue'
import type { Intake } from '@/api/types'
import { useBuild } from '../build'

/** What an import did, or would do: counts, and every refused cell with its reason. */
const props = defineProps<{ intake: Intake }>()
const emit = defineEmits<{ open: [object: string] }>()
const build = useBuild()
const result = computed(() => props.intake.result!)

function name(sheet: number): string {
  const plan = props.intake.plan?.sheets[sheet]
  return plan?.plural || build.object(plan?.object)?.plural || plan?.object || ''
}

const seconds = computed(() =>
  (result.value.micros / 1e6).toLocaleString(undefined, { maximumFractionDigits: 1 }),
)
const verbs = computed(() =>
  result.value.dry
    ? {
        added: 'would be added',
        changed: 'would be changed',
        unchanged: 'are the same already',
        refused: 'would be refused',
        left: 'would leave what is there',
        emptied: 'would empty what is there',
      }
    : {
        added: 'added',
        changed: 'changed',
        unchanged: 'were the same already',
        refused: 'refused',
        left: 'left what was there',
        emptied: 'emptied what was there',
      },
)
</script>

<template>
  <section class="result" aria-live="polite">
    <h2>
      {{ result.dry ? 'Tried, nothing stored' : 'Brought in' }} <span class="muted">in {{ seconds }} s</span>
    </h2>
    <div v-for="s in result.sheets" :key="s.sheet" class="sheet">
      <p>
        <strong>{{ name(s.sheet) }}</strong>: of {{ s.rows.toLocaleString() }} rows
        <span class="good">{{ s.added.toLocaleString() }} {{ verbs.added }}</span
        ><template v-if="s.changed">, {{ s.changed.toLocaleString() }} {{ verbs.changed }}</template
        ><template v-if="s.unchanged">, {{ s.unchanged.toLocaleString() }} {{ verbs.unchanged }}</template
        ><template v-if="s.refused"
          >, <span class="bad">{{ s.refused.toLocaleString() }} {{ verbs.refused }}</span></template
        >.
        <template v-if="s.left"
          >{{ s.left.toLocaleString() }} empty {{ s.left === 1 ? 'cell' : 'cells' }}
          {{ verbs.left }}.</template
        >
        <template v-if="s.emptied"
          >{{ s.emptied.toLocaleString() }} empty {{ s.emptied === 1 ? 'cell' : 'cells' }}
          {{ verbs.emptied }}.</template
        >
        <button v-if="!result.dry" type="button" class="plain link" @click="emit('open', s.object)">
          Open {{ name(s.sheet) }}
        </button>
      </p>
      <template v-if="s.refused">
        <table>
          <thead>
            <tr>
              <th>Line</th>
              <th>Column</th>
              <th>Value</th>
              <th>Reason</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(c, i) in s.examples" :key="i">
              <td>{{ c.line }}</td>
              <td>{{ c.heading }}</td>
              <td>{{ c.value }}</td>
              <td>{{ c.reason }}</td>
            </tr>
          </tbody>
        </table>
        <p>
          <a :href="`/api/build/intakes/${intake.id}/refused/${s.sheet}/file`">Download the refused rows</a>
          with their reasons, mend them and bring that file in.
        </p>
      </template>
    </div>
  </section>
</template>

<style scoped>
.result {
  border-left: 3px solid var(--good);
  background: var(--panel);
  padding: 0.8rem 1rem;
  margin: 0.8rem 0 1.2rem;
}
h2 span {
  font-weight: 400;
  font-size: 0.9rem;
}
p {
  margin: 0.4rem 0;
}
th,
td {
  text-align: left;
  padding: 0.15rem 1.4rem 0.15rem 0;
  vertical-align: top;
}
th {
  color: var(--muted);
  font-weight: 600;
}
</style>
