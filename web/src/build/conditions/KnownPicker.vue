<script setup lang="ts">
import AutoComplete, { type AutoCompleteCompleteEvent } from 'primevue/autocomplete'
import { computed, ref, watch } from 'vue'
import { matching, useBuild } from '../build'
import { useKnown } from './context'
import { kindWords, knownValues, suits, type Known } from './known'

/** Picks a known value by its words or path, or takes an expression as typed. */
const props = defineProps<{
  place: string
  label: string
  kind?: string
  object?: string
  placeholder?: string
  /** Names that are known at the place, though not to this. */
  without?: string[]
}>()
const expression = defineModel<string>({ required: true })
const build = useBuild()
const context = useKnown()
const text = ref<string | Known>('')
const found = ref<Known[]>([])

watch(expression, (e) => (text.value = e), { immediate: true })

const known = computed(() =>
  knownValues(
    build,
    context.names(props.place).filter((n) => !props.without?.includes(n.key)),
    context.samples.value,
  ).map((k) => ({ ...k, label: k.label + ' ' + k.path, words: k.label })),
)

/** Functions that do what was typed, to be filled in. */
const functions = computed(() =>
  (build.contents?.functions ?? []).map((f) => ({
    path: f.form,
    label: f.form + ' ' + f.about,
    words: f.about,
    kind: '',
    fill: true,
  })),
)

/** Enter takes the first suggestion once somebody has begun to look for one. */
const searching = ref(false)

/** What is looked for, as long as somebody looks. */
let looked: string | undefined

function complete(event: AutoCompleteCompleteEvent): void {
  looked = event.query.trim()
  suggest(looked)
}

// What is known here may be told only after somebody has begun to look for it.
watch(known, () => looked !== undefined && !found.value.length && suggest(looked))

function suggest(query: string): void {
  const fitting = known.value.filter((k) => suits(k, props.kind, props.object))
  searching.value = !!query && query !== expression.value
  const all = searching.value ? matching(fitting, query) : fitting
  const exactly = all.find((k) => k.path === query)
  const values = (exactly ? [exactly, ...all.filter((k) => k !== exactly)] : all).slice(0, 60)
  found.value = searching.value ? [...values, ...matching(functions.value, query, 12)] : values
}

/** A function is put where it can be filled in; anything else is what was meant. */
function take(option: Known): void {
  if (!option.fill) return commit()
  clearTimeout(leaving)
  text.value = option.path
}

let leaving: ReturnType<typeof setTimeout> | undefined

/** Pressing a suggestion takes the focus first: the typed text counts only when none is. */
function leave(): void {
  looked = undefined
  leaving = setTimeout(commit, 250)
}

function commit(): void {
  clearTimeout(leaving)
  const now = typeof text.value === 'string' ? text.value.trim() : text.value.path
  if (now !== expression.value) expression.value = now
}
</script>

<template>
  <AutoComplete
    v-model="text"
    :suggestions="found"
    option-label="path"
    :delay="0"
    :min-length="0"
    complete-on-focus
    :auto-option-focus="searching"
    :aria-label="label"
    :placeholder="placeholder ?? 'known value'"
    size="small"
    class="known"
    empty-search-message="No known value of that kind here. An expression can be typed."
    @complete="complete"
    @option-select="take($event.value)"
    @blur="leave"
    @keydown.enter="commit"
  >
    <template #option="{ option }">
      <span class="option">
        <span>{{ option.words }}</span>
        <code v-if="option.fill" class="path">{{ option.path }}</code>
        <span v-else class="muted path">{{ option.path }}</span>
        <span class="muted">
          {{ option.fill ? 'function' : kindWords(option, build) }}{{ option.empty ? ', perhaps empty' : '' }}
        </span>
        <span class="sample">{{ option.sample }}</span>
      </span>
    </template>
  </AutoComplete>
</template>

<style scoped>
.known :deep(input) {
  width: 100%;
}
.known {
  min-width: 15rem;
}
.option {
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) minmax(0, 1fr) 9rem 9rem;
  width: min(44rem, 88vw);
  gap: 1rem;
  overflow-wrap: anywhere;
  white-space: normal;
  font-size: 0.9rem;
}
.sample {
  color: var(--good);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
