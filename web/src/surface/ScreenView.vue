<script setup lang="ts">
import { IconCheck } from '@tabler/icons-vue'
import Button from 'primevue/button'
import { computed, ref, watch } from 'vue'
import type { Answers, EventKind, ShippedView, View } from '@/api/types'
import { trackSending } from '@/fields/files'
import { useReactions } from './reactions'
import { say } from './sentence'
import SurfaceView from './SurfaceView.vue'
import type { SurfaceSource } from './source'
import { saidTurns, turnsOf } from './turns'
import { mayLeave, useUnsavedScope } from './unsaved'

const props = defineProps<{
  label: string
  view: View
  source: SurfaceSource
  problems: Record<string, string>
  busy: boolean
  /** Views can be given to others. */
  ships?: boolean
  /** It stands in something that scrolls. */
  within?: boolean
  /** What follows something is computed, with all that was given by hand so far; says whether that was done. */
  follow: (answers: Answers, changed: string) => Promise<boolean>
  /** What the button of a closing screen says where it does not lead where the builder wants. */
  closes?: string
}>()
const emit = defineEmits<{
  next: [answers: Answers]
  back: [answers: Answers]
  later: [answers: Answers]
  cancel: []
  close: []
  written: []
  ship: [part: string, view: ShippedView]
}>()
const surface = ref<InstanceType<typeof SurfaceView> | null>(null)
const sending = trackSending()
const heading = ref<HTMLElement | null>(null)
const form = ref<HTMLElement | null>(null)
const progress = computed(() => {
  const v = props.view
  if (v.closed) return ['Finished']
  const turns = saidTurns(v)
  if (v.question || v.no_progress || (turns.length && !v.of)) return turns
  return [`Screen ${v.screen}` + (v.of ? ` of ${v.of}` : ''), ...turns]
})
/** Which screen it is, and in which turn. */
const place = computed(() => `${props.view.step}@${turnsOf(props.view)}`)

/** Whether nobody is typing elsewhere, such as in the sheet. */
function here(): boolean {
  const at = document.activeElement
  return !at || at === document.body || !!form.value?.contains(at) || at.contains(form.value)
}

// The keyboard goes to a new screen, and on one that is to be looked at again to the first thing that is wrong.
watch(place, () => here() && heading.value?.focus(), { flush: 'post' })
watch(
  () => props.problems,
  () => {
    const inputs = '[data-wrong] :is(input, textarea, select, button, [tabindex="0"])'
    if (here()) form.value?.querySelector<HTMLElement>(inputs)?.focus()
  },
  { flush: 'post' },
)

const left = useUnsavedScope()

/** Goes on; by the second way on, that is an answer, too. */
async function next(second?: string): Promise<void> {
  if (props.busy || sending.value || !surface.value) return
  const way = second ? { [second]: true } : {}
  if (await mayLeave(left())) emit('next', { ...given(true), ...way })
}

/** Whether somebody went back to the screen. */
let returning = false
/** The searches on demand that were asked for on the screen. */
const asked = ref<Answers>({})
watch(place, () => (asked.value = {}), { flush: 'sync' })
const given = (all: boolean): Answers => ({ ...surface.value?.answers(all), ...asked.value })

const isPart = (key: string) =>
  props.view.bands.some((b) => b.columns.some((c) => c.parts.some((p) => p.key === key)))

/** Makes a search again, one on demand for the first time perhaps, and what follows it. */
function read(search: string): Promise<boolean> {
  asked.value = { ...asked.value, [search]: true }
  return props.follow(given(false), search)
}

const reactions = useReactions({
  source: props.source,
  place: () => (props.view.closed || props.view.question ? '' : place.value),
  label: () => props.view.title,
  reactions: () => props.view.reactions ?? [],
  cameBack: () => returning,
  parts: () => surface.value?.around ?? null,
  read: (part) => (isPart(part) ? undefined : read(part)),
})
const source: SurfaceSource = {
  ...props.source,
  rowPressed: (part, row) => happens('row_pressed', part, row),
}
watch(place, () => (returning = false), { flush: 'post' })

/** Something happened on the screen, with what is given on it by then. */
function happens(event: EventKind, part?: string, row?: number): boolean {
  if (surface.value && props.view.reactions?.length) props.source.typed?.(given(false))
  return reactions.happens(event, part, row)
}

function changed(part: string): void {
  if (surface.value && props.view.feeds?.includes(part)) void props.follow(given(false), part)
  happens('changed', part)
}

function written(part?: string): void {
  emit('written')
  if (part) happens('written', part)
}

const typed = () => given(true)

async function back(): Promise<void> {
  if (!(await mayLeave(left()))) return
  returning = true
  emit('back', typed())
}

async function later(): Promise<void> {
  if (await mayLeave(left())) emit('later', typed())
}

defineExpose({ answers: typed, happens })
</script>

<template>
  <form ref="form" @submit.prevent="next()">
    <p class="progress">{{ [label, ...progress].join(' · ') }}</p>
    <h1 ref="heading" tabindex="-1">
      <IconCheck v-if="view.closed" :size="26" class="good" aria-hidden="true" /> {{ view.title }}
    </h1>
    <p v-if="view.message" class="message">{{ say(view.message) }}</p>
    <p v-if="view.question" class="message">{{ say(view.question) }}</p>
    <SurfaceView
      :key="place"
      ref="surface"
      :bands="view.bands"
      :source="source"
      :problems="problems"
      :ships="ships"
      :within="within"
      @go="next()"
      @changed="changed"
      @read="read"
      @pressed="(part) => happens('pressed', part)"
      @written="written"
      @ship="(part, view) => emit('ship', part, view)"
    />
    <p v-if="reactions.holds.value" class="muted" role="status">{{ reactions.holds.value }}</p>
    <div class="buttons">
      <template v-if="view.closed">
        <Button
          type="button"
          :label="closes ?? (view.go === 'again' ? 'Start again' : 'To the home page')"
          @click="emit('close')"
        />
      </template>
      <template v-else>
        <Button
          v-if="view.back"
          type="button"
          outlined
          :label="view.back_label || 'Back'"
          :disabled="busy"
          @click="back"
        />
        <Button
          v-if="view.cancel"
          type="button"
          text
          :label="view.cancel"
          :disabled="busy"
          @click="emit('cancel')"
        />
        <span class="space" />
        <Button
          v-if="view.later"
          type="button"
          text
          :label="view.later"
          :disabled="busy || sending > 0"
          @click="later"
        />
        <Button
          v-if="view.second"
          type="button"
          outlined
          :label="view.second.label"
          :disabled="busy || sending > 0"
          @click="next(view.second.key)"
        />
        <Button
          type="submit"
          :label="view.next || (view.question ? 'Go on' : 'Next')"
          :loading="busy || sending > 0"
        />
      </template>
    </div>
  </form>
</template>

<style scoped>
.progress {
  margin: 0 0 0.2rem;
  color: var(--muted);
}
h1 {
  margin-bottom: 1.1rem;
  outline: none;
}
h1 svg {
  vertical-align: -4px;
}
.message {
  font-size: 1.1rem;
  white-space: pre-line;
}
.buttons {
  display: flex;
  gap: 0.6rem;
  flex-wrap: wrap;
  border-top: 1px solid var(--line);
  padding-top: 1rem;
}
.space {
  flex: 1;
}
</style>
