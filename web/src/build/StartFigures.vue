<script setup lang="ts">
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { moment } from '@/fields/zone'
import StartRehearsals from './StartRehearsals.vue'

/** What a builder begins with: what changed, where people stand, how much is stored. */
const {
  found: start,
  failed,
  again,
} = useAsked(
  () => ['build start'],
  (signal) => given(api.GET('/build/start', { signal })),
  { fresh: true },
)
</script>

<template>
  <p v-if="failed" class="bad" role="alert">
    {{ failed }} <button type="button" class="plain link" @click="again()">Try again</button>
  </p>
  <div v-if="start" class="start-figures">
    <section>
      <h2>Changed since the release in force</h2>
      <p v-if="!start.changed.length" class="muted">Nothing: people have what is drafted.</p>
      <ul>
        <li v-for="c in start.changed" :key="c.kind + c.key">
          <RouterLink :to="`/build/${c.kind}/${c.key}`">{{ c.label }}</RouterLink>
          <span class="muted">
            {{ c.edits.toLocaleString() }} {{ c.edits === 1 ? 'edit' : 'edits' }} by {{ c.people }}, last
            {{ moment(c.at) }}
          </span>
        </li>
      </ul>
      <StartRehearsals />
    </section>
    <section>
      <h2>Where people have not finished</h2>
      <p v-if="!start.open.length" class="muted">Every walkthrough that was begun is finished.</p>
      <ul>
        <li v-for="o in start.open" :key="o.walkthrough + o.step">
          <RouterLink :to="`/build/walkthrough/${o.walkthrough}`">{{ o.label }}</RouterLink>:
          {{ o.runs.toLocaleString() }} at “{{ o.title || o.step }}”
          <span class="muted">left since {{ moment(o.since) }}</span>
        </li>
      </ul>
    </section>
    <section>
      <h2>Records in production</h2>
      <table>
        <tbody>
          <tr v-for="s in start.sizes" :key="s.object">
            <th scope="row">
              <RouterLink :to="`/build/object/${s.object}`">{{ s.label }}</RouterLink>
            </th>
            <td>{{ s.about ? 'about ' : '' }}{{ s.records.toLocaleString() }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.start-figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(17rem, 100%), 1fr));
  gap: 0 2.4rem;
}
h2 {
  margin: 1.4rem 0 0.4rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  padding: 0.2rem 0;
}
table {
  width: auto;
}
th {
  font-weight: 400;
  text-align: left;
  padding: 0.1rem 1.6rem 0.1rem 0;
}
td {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
</style>
