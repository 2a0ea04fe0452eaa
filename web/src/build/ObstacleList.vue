<script setup lang="ts">
import Message from 'primevue/message'
import type { Obstacle } from '@/api/types'
import MendAll from './MendAll.vue'

/** Stored records that would break a rule of the model, with the reason for each. */
defineProps<{ obstacles: Obstacle[]; mendable?: boolean }>()
const emit = defineEmits<{ mend: [obstacle: Obstacle, value: unknown] }>()

function shown(value: string): string {
  const v: unknown = JSON.parse(value)
  if (v === null) return 'empty'
  return typeof v === 'object' ? Object.values(v).join(' ') : String(v)
}
</script>

<template>
  <Message v-for="o in obstacles" :key="o.object + o.field + o.rule" severity="error" :closable="false">
    <p>{{ o.text }}.</p>
    <div class="scroll" tabindex="0" :aria-label="'Records in the way: ' + o.text">
      <table>
        <thead>
          <tr>
            <th>Record</th>
            <th>Holds</th>
            <th v-if="o.rule === 'value'">Why not</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in o.records" :key="r.id">
            <td>
              <RouterLink :to="`/build/object/${o.object}/records?record=${r.id}`">{{
                r.label || 'record ' + r.id
              }}</RouterLink>
            </td>
            <td>{{ shown(r.value) }}</td>
            <td v-if="o.rule === 'value'">{{ r.reason }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="o.count > o.records.length" class="muted">
      The first {{ o.records.length }} of {{ o.count }} records are listed.
    </p>
    <MendAll
      v-if="mendable && ['required', 'value'].includes(o.rule)"
      :obstacle="o"
      @mend="emit('mend', o, $event)"
    />
  </Message>
</template>

<style scoped>
.scroll {
  max-height: 14rem;
  overflow: auto;
}
table {
  border-collapse: collapse;
  color: var(--ink);
}
th,
td {
  text-align: left;
  padding: 0.1rem 1.2rem 0.1rem 0;
}
p {
  margin: 0 0 0.3rem;
}
</style>
