<script setup lang="ts">
import { computed } from 'vue'
import { type Day, daysBetween, today, weekday } from '@/fields/zone'
import DayEntry from './DayEntry.vue'
import { type Entry, words } from './days'

/** A line for each value of a field, and along it the records on their days. What overlaps stands below. */
const props = defineProps<{
  days: Day[]
  entries: Entry[]
  lineOf: (e: Entry) => string
  says: (e: Entry) => string[]
}>()
defineEmits<{ open: [entry: Entry] }>()
const now = today()

interface Bar {
  entry: Entry
  from: number
  to: number
  row: number
}

/** Bars one below the other where they overlap. */
function rows(entries: Entry[]): Bar[] {
  const free: number[] = []
  return [...entries]
    .sort((a, b) => a.from.localeCompare(b.from) || (a.at ?? -1) - (b.at ?? -1))
    .map((entry) => {
      const from = Math.max(daysBetween(props.days[0], entry.from), 0)
      const to = Math.min(daysBetween(props.days[0], entry.to), props.days.length - 1)
      let row = free.findIndex((until) => until < from)
      if (row < 0) row = free.length
      free[row] = to
      return { entry, from, to, row }
    })
}

const lines = computed(() => {
  const by = new Map<string, Entry[]>()
  for (const e of props.entries) by.set(props.lineOf(e), [...(by.get(props.lineOf(e)) ?? []), e])
  return [...by]
    .sort(([a], [b]) => a.localeCompare(b, undefined, { numeric: true }))
    .map(([name, entries]) => ({ name, bars: rows(entries) }))
})
</script>

<template>
  <div class="scroll" tabindex="0" role="group" aria-label="The days along which the lines go">
    <div class="lines" :style="{ '--days': days.length }">
      <span />
      <span
        v-for="day in days"
        :key="day"
        class="day"
        :class="{ now: day === now, rest: weekday(day) > 4 }"
        :aria-current="day === now ? 'date' : undefined"
        >{{ words(day, 'short') }}</span
      >
      <template v-for="line in lines" :key="line.name">
        <span class="name">{{ line.name }}</span>
        <ul class="bars" :aria-label="line.name">
          <li
            v-for="b in line.bars"
            :key="b.entry.id"
            :style="{ gridColumn: `${b.from + 1} / ${b.to + 2}`, gridRow: b.row + 1 }"
          >
            <DayEntry
              whole
              :entry="b.entry"
              :day="b.entry.from"
              :says="says(b.entry)"
              @open="$emit('open', b.entry)"
            />
          </li>
        </ul>
      </template>
    </div>
    <p v-if="!lines.length" class="muted">There is nothing on these days.</p>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.lines {
  display: grid;
  grid-template-columns: minmax(7rem, 12rem) repeat(var(--days), minmax(4.2rem, 1fr));
  min-width: max-content;
}
.day {
  padding: 0.2rem 0.3rem;
  color: var(--muted);
  font-size: 0.85rem;
  border-left: 1px solid var(--line);
}
.rest {
  background: color-mix(in srgb, var(--line) 35%, transparent);
}
.now {
  color: var(--accent);
  font-weight: 650;
}
.name {
  position: sticky;
  left: 0;
  z-index: 1;
  padding: 0.35rem 0.5rem 0.35rem 0;
  background: var(--paper);
  border-top: 1px solid var(--line);
  overflow-wrap: anywhere;
}
.bars {
  grid-column: 2 / -1;
  display: grid;
  grid-template-columns: subgrid;
  gap: 3px 0;
  margin: 0;
  padding: 0.3rem 0;
  list-style: none;
  border-top: 1px solid var(--line);
}
li {
  min-width: 0;
  padding: 0 2px;
}
</style>
