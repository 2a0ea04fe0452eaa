<script setup lang="ts">
import type { Entry } from '@/api/types'

defineProps<{ trace: Entry[] }>()

function took(micros: number): string {
  return micros < 1000 ? '< 1 ms' : `${(micros / 1000).toFixed(1)} ms`
}
</script>

<template>
  <section class="trace">
    <h2>Trace</h2>
    <table>
      <tbody>
        <template v-for="(e, i) in trace" :key="i">
          <tr v-if="e.kind !== 'screen' && e.kind !== 'finish'">
            <td>
              {{ e.title }}
              <span v-for="v in e.values ?? []" :key="v.name" class="value">{{ v.name }}: {{ v.value }}</span>
              <span v-if="e.turn" class="value">turn {{ e.turn }}</span>
              <span v-if="e.note" class="value">{{ e.note }}</span>
              <details v-if="e.records?.length" class="value">
                <summary>
                  {{ e.records.map((r) => r.label).join(', ') }}{{ e.written > e.records.length ? ' …' : '' }}
                </summary>
                <dl v-for="(r, n) in e.records" :key="n">
                  <template v-for="v in r.values" :key="v.name"
                    ><dt>{{ v.name }}</dt>
                    <dd>{{ v.value }}</dd></template
                  >
                </dl>
              </details>
            </td>
            <td class="n">
              <template v-if="e.kind === 'search'">{{ e.found }} of {{ e.looked }}</template>
              <template v-else-if="e.written">{{ e.written }} written</template>
            </td>
            <td class="n muted">{{ took(e.micros) }}</td>
          </tr>
        </template>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.trace {
  margin-top: 1.6rem;
}
table {
  width: 100%;
  margin-top: 0.3rem;
  font-size: 0.9rem;
}
td {
  border-top: 1px solid var(--line);
  padding: 0.25rem 0.4rem 0.25rem 0;
  vertical-align: top;
}
.value {
  display: block;
  color: var(--muted);
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 0 0.6rem;
  margin: 0.2rem 0 0.4rem;
  color: var(--ink);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
dt {
  color: var(--muted);
}
.n {
  text-align: right;
  white-space: nowrap;
}
</style>
