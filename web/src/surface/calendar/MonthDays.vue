<script setup lang="ts">
import { computed, ref } from 'vue'
import FloatPanel from '@/frame/FloatPanel.vue'
import { type Day, today } from '@/fields/zone'
import DayEntry from './DayEntry.vue'
import { type Entry, onDay, words } from './days'

/** The weeks of a month. A day with much on it shows the first of it, and the rest when that is asked for. */
const props = defineProps<{ days: Day[]; month: Day; entries: Entry[]; says: (e: Entry) => string[] }>()
defineEmits<{ open: [entry: Entry] }>()

const most = 3
const weeks = computed(() => {
  const out: { day: Day; on: Entry[] }[][] = []
  props.days.forEach((day, i) => {
    if (i % 7 === 0) out.push([])
    out[out.length - 1].push({ day, on: onDay(props.entries, day) })
  })
  return out
})
const other = (day: Day) => day.slice(0, 7) !== props.month.slice(0, 7)
const now = today()
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const whole = ref<Day>('')

function all(day: Day, event: Event): void {
  whole.value = day
  panel.value?.toggle(event)
}
</script>

<template>
  <table>
    <thead>
      <tr>
        <th v-for="d in weeks[0]" :key="d.day" scope="col">{{ words(d.day, 'weekday') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="week in weeks" :key="week[0].day">
        <td
          v-for="d in week"
          :key="d.day"
          :class="{ other: other(d.day), now: d.day === now, empty: !d.on.length }"
          :aria-current="d.day === now ? 'date' : undefined"
        >
          <div class="number">
            <span aria-hidden="true">{{ Number(d.day.slice(8)) }}</span>
            <span class="visually-hidden">{{ words(d.day, 'day') }}</span>
            <span class="name" aria-hidden="true">{{ words(d.day, 'weekday') }}</span>
          </div>
          <DayEntry
            v-for="e in d.on.length > most + 1 ? d.on.slice(0, most) : d.on"
            :key="e.id"
            :entry="e"
            :day="d.day"
            :says="says(e)"
            @open="$emit('open', e)"
          />
          <button v-if="d.on.length > most + 1" type="button" class="plain link" @click="all(d.day, $event)">
            {{ d.on.length - most }} more
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <FloatPanel ref="panel" :aria-label="whole && words(whole, 'day')">
    <div class="whole">
      <h3>{{ whole && words(whole, 'day') }}</h3>
      <DayEntry
        v-for="e in onDay(entries, whole)"
        :key="e.id"
        wrap
        :entry="e"
        :day="whole"
        :says="says(e)"
        @open="$emit('open', e)"
      />
    </div>
  </FloatPanel>
</template>

<style scoped>
table {
  width: 100%;
  table-layout: fixed;
  border-collapse: collapse;
}
th {
  padding: 0.2rem 0.4rem;
  color: var(--muted);
  font-weight: 400;
  text-align: left;
}
td {
  height: 6.2rem;
  padding: 0.2rem;
  vertical-align: top;
  border: 1px solid var(--line);
}
td > * + * {
  margin-top: 2px;
}
.number {
  padding: 0 0.2rem;
  font-variant-numeric: tabular-nums;
}
.other .number {
  color: var(--muted);
}
.now .number > :first-child {
  padding: 0 0.35rem;
  border-radius: 4px;
  background: var(--accent);
  color: var(--paper);
}
.name {
  display: none;
}
.whole {
  display: flex;
  flex-direction: column;
  gap: 3px;
  width: 20rem;
  max-height: 24rem;
  overflow: auto;
}
@container (max-width: 34rem) {
  thead {
    display: none;
  }
  tr,
  td {
    display: block;
  }
  td {
    height: auto;
    border-width: 0 0 1px;
  }
  td.empty,
  td.other {
    display: none;
  }
  .name {
    display: inline;
    margin-left: 0.4rem;
    color: var(--muted);
  }
}
</style>
