<script setup lang="ts">
import { computed, watch } from 'vue'
import type { Name, Role } from '@/api/types'
import { useBuild } from './build'
import { useDocument } from './document'
import { conditionLines } from './words'

const props = defineProps<{ name: string }>()
const build = useBuild()
const doc = useDocument<Role>('role', () => props.name)
watch(() => props.name, doc.load, { immediate: true })
const rows = computed(() => {
  const rights = doc.body.value?.objects ?? {}
  return (build.contents?.objects ?? [])
    .filter((o) => o.key !== 'person')
    .map((object) => ({ object, right: rights[object.key] }))
})
const people = computed(() => build.contents?.people.filter((p) => p.roles?.includes(props.name)) ?? [])
// What a row rule may know of the person.
const personNames: Name[] = [
  {
    key: 'person',
    label: 'The person',
    type: {
      kind: 'screen',
      answers: [{ key: 'organisation', label: 'the person’s organisation', type: { kind: 'record' } }],
    },
  },
]
const verbs = ['see', 'add', 'change', 'remove'] as const
</script>

<template>
  <main v-if="doc.body.value" class="page">
    <h1>{{ doc.body.value.label }}</h1>
    <p class="muted">
      {{ people.map((p) => p.name).join(', ') || 'Nobody has this role.' }}
    </p>
    <table>
      <thead>
        <tr>
          <th>Object</th>
          <th v-for="v in verbs" :key="v" class="mark">{{ v }}</th>
          <th>Which records</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.object.key" :class="{ muted: !r.right?.see }">
          <td>{{ r.object.plural }}</td>
          <td v-for="v in verbs" :key="v" class="mark">{{ r.right?.[v] ? 'yes' : '–' }}</td>
          <td>
            <template v-if="r.right?.rows">{{
              conditionLines(build, personNames, r.object.key, r.right.rows).join(' and ')
            }}</template>
            <span v-else-if="r.right?.see" class="muted">all</span>
          </td>
        </tr>
      </tbody>
    </table>
  </main>
  <p v-else-if="doc.failed.value" class="page bad">{{ doc.failed.value }}</p>
</template>

<style scoped>
.page {
  max-width: 58rem;
  padding: 1.6rem 2rem;
}
table {
  width: 100%;
  margin-top: 1rem;
}
th {
  text-align: left;
  color: var(--muted);
  font-weight: 600;
}
th,
td {
  border-bottom: 1px solid var(--line);
  padding: 0.3rem 1rem 0.3rem 0;
}
.mark {
  width: 4.5rem;
}
</style>
