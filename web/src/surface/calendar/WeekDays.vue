<script setup lang="ts">
import { type Day, today } from '@/fields/zone'
import DayEntry from './DayEntry.vue'
import { type Entry, onDay, words } from './days'

/** The days of a week beside each other, each with all that is on it. */
defineProps<{ days: Day[]; entries: Entry[]; says: (e: Entry) => string[] }>()
defineEmits<{ open: [entry: Entry] }>()
const now = today()
</script>

<template>
  <div class="week">
    <section v-for="day in days" :key="day" :class="{ now: day === now }" :aria-label="words(day, 'day')">
      <h3>{{ words(day, 'short') }}</h3>
      <DayEntry
        v-for="e in onDay(entries, day)"
        :key="e.id"
        wrap
        :entry="e"
        :day="day"
        :says="says(e)"
        @open="$emit('open', e)"
      />
      <p v-if="!onDay(entries, day).length" class="muted" aria-label="Nothing">–</p>
    </section>
  </div>
</template>

<style scoped>
.week {
  display: grid;
  grid-template-columns: repeat(7, minmax(0, 1fr));
  border-top: 1px solid var(--line);
}
section {
  min-height: 12rem;
  padding: 0.3rem;
  border-right: 1px solid var(--line);
}
section:last-child {
  border-right: 0;
}
section > * + * {
  margin-top: 4px;
}
h3 {
  font-size: 0.9rem;
  font-weight: 400;
  color: var(--muted);
}
.now h3 {
  color: var(--accent);
  font-weight: 650;
}
p {
  margin: 0;
}
@container (max-width: 34rem) {
  .week {
    grid-template-columns: minmax(0, 1fr);
  }
  section {
    min-height: 0;
    border-right: 0;
    border-bottom: 1px solid var(--line);
  }
}
</style>
