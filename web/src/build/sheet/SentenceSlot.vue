<script setup lang="ts">
import { computed, ref, useId } from 'vue'
import { matching, useBuild } from '../build'
import { useKnown } from '../conditions/context'
import { kindWords, type Known, knownValues } from '../conditions/known'
import TextSlot from './TextSlot.vue'

/** A text with values in braces: behind an opening brace it offers what is known. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ place: string; label: string; placeholder?: string; long?: boolean }>()
const value = defineModel<string>({ required: true })
const build = useBuild()
const known = useKnown()
const id = useId()
/** Where the value begins that is being written, -1 while none is. */
const from = ref(-1)
const words = ref('')
const active = ref(0)

const offers = computed(() => {
  if (from.value < 0) return []
  const all = knownValues(build, known.names(props.place), known.samples.value)
    .filter((k) => k.kind !== 'list' && k.kind !== 'rows')
    .map((k) => ({ ...k, words: k.label, label: k.label + ' ' + k.path }))
  return (words.value ? matching(all, words.value) : all).slice(0, 8)
})

const field = (event: Event) => event.target as HTMLInputElement | HTMLTextAreaElement

/** Looks whether a value is being written where the keyboard is. */
function look(event: Event): void {
  const el = field(event)
  const before = el.value.slice(0, el.selectionStart ?? 0)
  const open = before.lastIndexOf('{')
  const written = before.slice(open + 1)
  // Two braces stand for one; a bracket or a quote is an expression, which is written by hand.
  const writing = open >= 0 && before[open - 1] !== '{' && /^[\p{L}\p{N}_. ]*$/u.test(written)
  if (!writing || from.value !== open + 1 || words.value !== written) active.value = 0
  from.value = writing ? open + 1 : -1
  words.value = writing ? written : ''
}

function take(el: HTMLInputElement | HTMLTextAreaElement, option: Known): void {
  const end = el.selectionStart ?? el.value.length
  const closed = el.value[end] === '}'
  el.setRangeText(option.path + (closed ? '' : '}'), from.value, end, 'end')
  if (closed) el.setSelectionRange(el.selectionStart! + 1, el.selectionStart! + 1)
  from.value = -1
  el.dispatchEvent(new Event('input', { bubbles: true }))
  from.value = -1
}

function key(event: KeyboardEvent): void {
  const all = offers.value
  if (!all.length) return
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (step) active.value = (active.value + step + all.length) % all.length
  else if (event.key === 'Enter' || event.key === 'Tab') take(field(event), all[active.value])
  else if (event.key === 'Escape') from.value = -1
  else return
  event.preventDefault()
  event.stopPropagation()
}

const box = ref<HTMLElement | null>(null)
function press(option: Known): void {
  const el = box.value?.querySelector<HTMLInputElement>('input, textarea')
  if (!el) return
  take(el, option)
  el.focus()
}
</script>

<template>
  <span
    ref="box"
    class="sentence"
    :class="$attrs.class"
    @input="look"
    @click="look"
    @keyup.left="look"
    @keyup.right="look"
    @keydown.capture="key"
    @focusout="from = -1"
  >
    <TextSlot
      v-model="value"
      :label="label"
      :placeholder="placeholder"
      :long="long"
      :aria-controls="offers.length ? id : undefined"
      :aria-activedescendant="offers.length ? id + active : undefined"
      class="text"
    />
    <ul v-if="offers.length" :id="id" role="listbox" :aria-label="'Values for ' + label">
      <li
        v-for="(o, i) in offers"
        :id="id + i"
        :key="o.path"
        role="option"
        :aria-selected="i === active"
        :class="{ active: i === active }"
        @mousedown.prevent="press(o)"
      >
        <span>{{ o.words }}</span>
        <span class="muted">{{ o.sample ?? kindWords(o, build) }}</span>
      </li>
    </ul>
  </span>
</template>

<style scoped>
.sentence {
  position: relative;
  display: inline-block;
}
.text {
  width: 100%;
}
ul {
  position: absolute;
  z-index: 20;
  left: 0;
  top: 100%;
  min-width: 22rem;
  max-width: 34rem;
  margin: 2px 0 0;
  padding: 0.2rem 0;
  list-style: none;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 4px;
  box-shadow: 0 4px 12px rgb(0 0 0 / 12%);
}
li {
  display: flex;
  justify-content: space-between;
  gap: 1.5rem;
  padding: 0.25rem 0.7rem;
  cursor: pointer;
}
.active,
li:hover {
  background: var(--tint);
}
</style>
