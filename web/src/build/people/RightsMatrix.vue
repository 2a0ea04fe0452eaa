<script setup lang="ts">
import type { Rights, RightsCell } from '@/api/types'
import { useBuild } from '../build'

/** Roles across, objects down; each cell says what may be done and with how many. */
const props = defineProps<{ rights: Rights }>()
const build = useBuild()

function verbs(c: RightsCell): string {
  const may = [c.see && 'see', c.add && 'add', c.change && 'change', c.remove && 'remove'].filter(
    Boolean,
  ) as string[]
  return may.length === 4 ? 'everything' : may.join(', ') || 'nothing'
}

function figure(c: RightsCell, total: number): string {
  if (!c.see) return ''
  return c.sees === total ? `all ${total}` : `${c.sees} of ${total}`
}

function words(row: Rights['objects'][number], i: number): string {
  const c = row.cells[i]
  return `${props.rights.roles[i].label}, ${build.object(row.object)?.plural}: ${verbs(c)}`
}
</script>

<template>
  <div class="scroll">
    <table>
      <thead>
        <tr>
          <th>Object</th>
          <th v-for="r in rights.roles" :key="r.key">
            <RouterLink :to="'/build/role/' + r.key">{{ r.label }}</RouterLink>
            <div class="muted as">{{ r.as ? 'as ' + r.as : 'nobody has it' }}</div>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rights.objects" :key="row.object">
          <th scope="row">
            <template v-if="row.object === 'person'">{{ build.object('person')?.plural }}</template>
            <RouterLink v-else :to="'/build/object/' + row.object">{{
              build.object(row.object)?.plural ?? row.object
            }}</RouterLink>
          </th>
          <td
            v-for="(c, i) in row.cells"
            :key="i"
            :class="{ none: !c.see, ruled: c.ruled }"
            :title="words(row, i)"
          >
            <span>{{ figure(c, row.total) || '–' }}</span>
            <small class="muted"
              >{{ c.see || c.add ? verbs(c) : ''
              }}<template v-if="c.narrowed">, {{ c.narrowed }} fields less</template></small
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
}
table {
  min-width: 100%;
}
th,
td {
  text-align: left;
  vertical-align: top;
  border-bottom: 1px solid var(--line);
  padding: 0.3rem 1rem 0.3rem 0;
  font-weight: 400;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
small {
  display: block;
}
.as {
  font-size: 0.85rem;
}
.none {
  color: var(--muted);
}
.ruled span {
  border-bottom: 2px solid var(--accent);
}
</style>
