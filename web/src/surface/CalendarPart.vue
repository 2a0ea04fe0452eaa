<script setup lang="ts">
import { IconChevronLeft, IconChevronRight } from '@tabler/icons-vue'
import { useStorage } from '@vueuse/core'
import Button from 'primevue/button'
import SelectButton from 'primevue/selectbutton'
import { computed, ref, useId } from 'vue'
import { useRouter } from 'vue-router'
import { useAsked } from '@/api/asked'
import type { CalendarSpan } from '@/api/types'
import { fieldTypes, format } from '@/fields/fields'
import { daysLater, today } from '@/fields/zone'
import {
  daysFrom,
  type Entry,
  entriesOf,
  monthLater,
  monthOf,
  stretchWords,
  weekOf,
  weeksOf,
  words,
} from './calendar/days'
import MonthDays from './calendar/MonthDays.vue'
import TimeLine from './calendar/TimeLine.vue'
import WeekDays from './calendar/WeekDays.vue'
import type { PartProps } from './parts'
import { asking } from './table/asking'

/** The records of a list on their days: a month, a week, or lines along the days. */
defineOptions({ inheritAttrs: false })
const props = defineProps<PartProps>()
const router = useRouter()
const id = useId()
const calendar = computed(() => props.part.calendar!)
const ask = asking(
  () => props.source,
  () => props.part.key,
)

const page = props.source.at(props.part.key).page?.page ?? ''
const span = useStorage<CalendarSpan>(`plainpath.calendar.${page}.${props.part.key}`, calendar.value.opens)
const spans = computed(() => [
  { value: 'month', label: 'Month' },
  { value: 'week', label: 'Week' },
  ...(calendar.value.by ? [{ value: 'time_line', label: 'Time line' }] : []),
])
const shown = computed(() => (spans.value.some((s) => s.value === span.value) ? span.value : 'month'))

/** A day that is looked at; what is shown lies around it. */
const day = ref(today())
/** How many days a time line has. */
const lineDays = 14
const stretch = computed(() => {
  if (shown.value === 'month') return weeksOf(monthOf(day.value))
  const from = weekOf(day.value)
  return { from, until: daysLater(from, shown.value === 'week' ? 7 : lineDays) }
})
const days = computed(() => daysFrom(stretch.value.from, stretch.value.until))
const title = computed(() =>
  shown.value === 'month'
    ? words(monthOf(day.value), 'month')
    : stretchWords(stretch.value.from, daysLater(stretch.value.until, -1)),
)

function turn(by: number): void {
  if (shown.value === 'month') day.value = monthLater(day.value, by)
  else day.value = daysLater(stretch.value.from, by * (shown.value === 'week' ? 7 : lineDays))
}

/** So many records are drawn at most; beyond that nobody could tell them apart. */
const most = 1000
const { found, failed, reading, again } = useAsked(
  () => [
    'calendar',
    props.source.base,
    JSON.stringify(props.source.at(props.part.key)),
    stretch.value,
    calendar.value,
  ],
  (signal) => {
    const { starts, ends, columns } = calendar.value
    const look = {
      between: { starts, ends, ...stretch.value },
      order: [{ path: starts }],
      columns,
      size: most,
    }
    return ask.rows(look, signal)
  },
  { fresh: true, lasting: true },
)
const entries = computed(() =>
  entriesOf(found.value?.rows ?? [], { ends: !!calendar.value.ends, by: !!calendar.value.by }),
)
const headings = computed(() => found.value?.columns ?? [])
const lead = computed(() => 1 + Number(!!calendar.value.ends) + Number(!!calendar.value.by))
const byHeading = computed(() => headings.value[lead.value - 1])

/** What is shown of a record besides what it is called. */
const says = (e: Entry) =>
  e.cells.flatMap((cell, i) => {
    const heading = headings.value[lead.value + i]
    if (cell === null || !heading) return []
    const bare = format(heading, cell)
    // A number alone says nothing.
    return [fieldTypes[heading.type].right ? `${heading.label} ${bare}` : bare]
  })
const lineOf = (e: Entry) => (byHeading.value && e.by !== null ? format(byHeading.value, e.by) : '—')

async function open(e: Entry): Promise<void> {
  if (props.source.rowPressed?.(props.part.key, e.id)) return
  const address = props.source.recordAddress(calendar.value.object, e.id)
  if (!address) return
  if (props.source.beside) window.open(address, '_blank')
  else await router.push(address)
}
</script>

<template>
  <section class="calendar" :aria-labelledby="id">
    <div class="head">
      <h2 :id="id">{{ part.label || 'Calendar' }}</h2>
      <span class="when" aria-live="polite">{{ title }}</span>
      <Button text size="small" severity="secondary" aria-label="Earlier" @click="turn(-1)"
        ><IconChevronLeft :size="18"
      /></Button>
      <Button text size="small" label="Today" @click="day = today()" />
      <Button text size="small" severity="secondary" aria-label="Later" @click="turn(1)"
        ><IconChevronRight :size="18"
      /></Button>
      <span class="space" />
      <SelectButton
        :model-value="shown"
        :options="spans"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        aria-label="How the calendar is looked at"
        @update:model-value="span = $event"
      />
    </div>
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="again">Try again</button>
    </p>
    <p v-else-if="found?.next" class="care">
      There are more than {{ most.toLocaleString() }} in these days; the first are shown.
    </p>
    <div :aria-busy="reading">
      <MonthDays
        v-if="shown === 'month'"
        :days="days"
        :month="monthOf(day)"
        :entries="entries"
        :says="says"
        @open="open"
      />
      <WeekDays v-else-if="shown === 'week'" :days="days" :entries="entries" :says="says" @open="open" />
      <TimeLine v-else :days="days" :entries="entries" :line-of="lineOf" :says="says" @open="open" />
    </div>
  </section>
</template>

<style scoped>
.calendar {
  container-type: inline-size;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.2rem 0.6rem;
  margin-bottom: 0.5rem;
}
.when {
  color: var(--muted);
  min-width: 9rem;
}
.space {
  flex: 1;
}
</style>
