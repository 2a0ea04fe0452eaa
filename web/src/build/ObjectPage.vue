<script setup lang="ts">
import { computed } from 'vue'
import { useBuild } from './build'
import { typeWords } from './words'

const props = defineProps<{ name: string }>()
const build = useBuild()
const object = computed(() => build.object(props.name))
const referrers = computed(() => build.referrers(props.name))
</script>

<template>
  <main v-if="object" class="page">
    <h1>{{ object.label }}</h1>
    <p v-if="object.note" class="muted">{{ object.note }}</p>
    <table>
      <thead>
        <tr>
          <th>Field</th>
          <th>Type</th>
          <th>Rules</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in object.fields" :key="f.key">
          <td>
            {{ f.label }} <span class="muted key">{{ f.key }}</span>
          </td>
          <td>
            {{ typeWords[f.type] }}
            <RouterLink v-if="f.object" :to="'/build/object/' + f.object">
              → {{ build.object(f.object)?.label }}</RouterLink
            >
            <span v-if="f.choices" class="muted">{{ f.choices.map((c) => c.label).join(', ') }}</span>
            <code v-if="f.expression">{{ f.expression }}</code>
          </td>
          <td class="muted">
            {{
              [
                f.key === object.label_field && 'stands for the record',
                f.required && 'required',
                f.unique && 'unique',
                f.least !== undefined && 'at least ' + f.least,
                f.most !== undefined && 'at most ' + f.most,
              ]
                .filter(Boolean)
                .join(' · ')
            }}
          </td>
        </tr>
      </tbody>
    </table>
    <template v-if="referrers.length">
      <h2>Refers to this</h2>
      <ul>
        <li v-for="r in referrers" :key="r.object.key + r.field.key">
          <RouterLink :to="'/build/object/' + r.object.key">{{ r.object.label }}</RouterLink> ›
          {{ r.field.label }}
        </li>
      </ul>
    </template>
  </main>
  <p v-else class="page">There is no object “{{ name }}”.</p>
</template>

<style scoped>
.page {
  max-width: 58rem;
  padding: 1.6rem 2rem;
}
table {
  width: 100%;
  margin: 1rem 0 1.6rem;
}
th {
  text-align: left;
  color: var(--muted);
  font-weight: 600;
}
th,
td {
  border-bottom: 1px solid var(--line);
  padding: 0.32rem 1rem 0.32rem 0;
  vertical-align: top;
}
.key {
  font-size: 0.85rem;
}
code {
  display: block;
  font-size: 0.85rem;
}
ul {
  padding-left: 1.1rem;
}
</style>
