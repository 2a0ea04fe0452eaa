<script setup lang="ts">
import { IconCalendar } from '@tabler/icons-vue'
import InputText from 'primevue/inputtext'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import FloatPanel from '@/frame/FloatPanel.vue'
import { inFull, readDate, readDateTime, wallOf, writtenDate } from './dates'
import { instants, zoneName } from './zone'

/**
 * A date, or a date and time in the zone of the house, typed as people write or picked from
 * a calendar. The value is as it travels; what cannot be read stays as it was written.
 */
const props = defineProps<{
  id: string
  timed?: boolean
  label?: string
  invalid?: boolean
  describedBy?: string
}>()
const value = defineModel<string | null>({ required: true })

// The calendar is loaded when somebody opens it.
const DatePicker = defineAsyncComponent(() => import('primevue/datepicker'))
const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const shown = (v: string | null) => (v ? writtenDate(v, !!props.timed) : '')
const text = ref(shown(value.value))
const writing = ref(false)
let sent = value.value

watch(
  () => [value.value, zoneName()],
  () => {
    if (value.value === sent && writing.value) return
    sent = value.value
    text.value = shown(value.value)
  },
)

const written = computed(() => {
  if (!text.value.trim()) return undefined
  return props.timed ? readDateTime(text.value) : readDate(text.value)
})
const wrong = computed(() => (written.value && 'wrong' in written.value ? written.value.wrong : ''))
const later = computed(() => (written.value && 'later' in written.value ? written.value.later : undefined))
const isLater = computed(() => !!later.value && value.value === later.value)
// What was not touched is not read again: it may have more to it than its text.
const hint = computed(() => {
  if (wrong.value) return wrong.value
  if (!value.value || !(writing.value || later.value)) return ''
  return inFull(value.value, !!props.timed)
})

function give(v: string | null): void {
  sent = v
  value.value = v
}

function typed(v: string | undefined): void {
  text.value = v ?? ''
  writing.value = true
  const w = written.value
  give(!w ? null : 'wrong' in w ? text.value : w.value)
}

/** What was read is written out in full when the keyboard leaves. */
function leave(): void {
  if (!wrong.value && writing.value) text.value = shown(value.value)
  writing.value = false
}

const wall = computed(() => wallOf(value.value ?? '', !!props.timed))

/** The calendar counts in the browser's own zone; only its date is taken. */
const picked = computed(() => {
  if (!wall.value) return null
  const [y, m, d] = wall.value.day.split('-').map(Number)
  return new Date(y, m - 1, d, 12)
})

function pick(d: unknown): void {
  if (!(d instanceof Date)) return
  const two = (n: number) => String(n).padStart(2, '0')
  const day = `${String(d.getFullYear()).padStart(4, '0')}-${two(d.getMonth() + 1)}-${two(d.getDate())}`
  const at = props.timed ? instants({ day, seconds: wall.value?.seconds ?? 9 * 3600 })[0]?.toISOString() : day
  writing.value = false
  give(at ?? day)
  text.value = shown(value.value)
  panel.value?.hide()
}

function key(event: KeyboardEvent): void {
  if (!event.altKey || event.key !== 'ArrowDown') return
  event.preventDefault()
  panel.value?.show(event)
}
</script>

<template>
  <span class="date">
    <span class="line">
      <InputText
        :id="id"
        :model-value="text"
        :invalid="invalid || (!!wrong && !writing)"
        :aria-label="label"
        :aria-describedby="[describedBy, hint ? id + '-read' : ''].filter(Boolean).join(' ') || undefined"
        :title="timed ? 'In the time of ' + zoneName() : undefined"
        autocomplete="off"
        @update:model-value="typed"
        @keydown="key"
        @blur="leave"
      />
      <button
        type="button"
        class="plain calendar"
        :aria-label="'Calendar for ' + (label ?? 'this date')"
        tabindex="-1"
        @click="panel?.toggle($event)"
      >
        <IconCalendar :size="16" />
      </button>
    </span>
    <small
      v-if="hint"
      :id="id + '-read'"
      class="hint"
      :class="{ wrong: !!wrong, floating: !wrong && !later }"
      aria-live="polite"
    >
      {{ hint
      }}<template v-if="later"
        >, the {{ isLater ? 'second' : 'first' }} of two that day
        <button
          type="button"
          class="plain link"
          @mousedown.prevent
          @click="give(isLater ? (written as { value: string }).value : later!)"
        >
          take the {{ isLater ? 'first' : 'second' }}
        </button></template
      >
    </small>
    <FloatPanel ref="panel">
      <DatePicker :model-value="picked" inline :manual-input="false" @update:model-value="pick" />
    </FloatPanel>
  </span>
</template>

<style scoped>
.date {
  position: relative;
  display: inline-flex;
  flex-direction: column;
  width: 100%;
  max-width: 14rem;
  min-width: 0;
}
.line {
  position: relative;
  display: flex;
}
.line :deep(input) {
  width: 100%;
  min-width: 0;
  padding-right: 2rem;
}
.calendar {
  position: absolute;
  inset: 0 0.3rem 0 auto;
  display: flex;
  align-items: center;
  padding: 0 0.25rem;
  color: var(--muted);
}
:global(.p-popover .p-datepicker-panel) {
  border: 0;
}
.hint {
  margin-top: 0.15rem;
  color: var(--muted);
}
/* What comes and goes with the keyboard moves nothing that somebody is about to press. */
.floating {
  position: absolute;
  inset: 100% auto auto 0;
  z-index: 5;
  width: max-content;
  max-width: 20rem;
  padding: 0.1rem 0.5rem;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 4px;
}
.hint.wrong {
  color: var(--bad);
}
</style>
