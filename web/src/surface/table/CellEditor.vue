<script setup lang="ts">
import { nextTick, onMounted, ref } from 'vue'
import type { Heading, Ref } from '@/api/types'
import { command } from '@/frame/keys'
import ValueInput from '@/fields/ValueInput.vue'
import { wallOf } from '@/fields/dates'
import { fieldTypes } from '@/fields/fields'
import type { Move } from './cellediting'

/** One cell being edited, over its place in the table. */
const props = defineProps<{
  heading: Heading
  value: unknown
  /** The cell it stands over. */
  cell: HTMLElement
  /** The letter that somebody began to type with: it takes the place of the value, or begins its search. */
  typed: string
  find: (text: string) => Promise<Ref[]>
}>()
const emit = defineEmits<{ done: [value: unknown, move: Move]; cancel: [move: Move]; save: [] }>()

const box = props.cell.getBoundingClientRect()
const wide = {
  reference: 260,
  person: 260,
  address: 320,
  long_text: 320,
  money: 250,
  date: 190,
  date_time: 260,
  picture: 300,
  file: 300,
}
const width = Math.max(box.width, (wide as Record<string, number>)[props.heading.type] ?? 0)
const left = Math.max(8, Math.min(box.left, window.innerWidth - width - 16))
const refers = ['reference', 'person'].includes(props.heading.type)
const timed = props.heading.type === 'date_time'
const dated = timed || props.heading.type === 'date'
// A letter typed on the cell lands in the empty input, which has the focus by then.
const replaces = props.typed !== '' && !!fieldTypes[props.heading.type].letters
const currency = (props.value as { currency?: string } | null)?.currency
const entered = ref<unknown>(replaces ? null : props.value)
const root = ref<HTMLElement | null>(null)
const choices = props.heading.choices?.filter((c) => !c.retired || [props.value].flat().includes(c.key))

/** The record there is says nothing about which are wanted: all are offered. */
function offered(text: string): Promise<Ref[]> {
  return props.find(refers && text === (props.value as Ref | null)?.label ? '' : text)
}

onMounted(async () => {
  await nextTick()
  const input = root.value?.querySelector<HTMLElement>(
    'input:not([type=radio]), textarea, [tabindex="0"], input',
  )
  input?.focus()
  const written = input instanceof HTMLInputElement || input instanceof HTMLTextAreaElement
  if (written && !props.typed) input.select()
  if (!props.typed || replaces) return
  if (refers && written) {
    input.value = props.typed
    input.dispatchEvent(new InputEvent('input', { bubbles: true }))
  } else input?.dispatchEvent(new KeyboardEvent('keydown', { key: props.typed, code: 'Key', bubbles: true }))
})

/** What was begun and not completed changes nothing: half a date, a name that nothing was chosen for. */
function completed(): boolean {
  const input = root.value?.querySelector<HTMLInputElement>('input')
  if (dated) return entered.value === null ? !replaces : !!wallOf(String(entered.value), timed)
  if (refers) return entered.value !== null || (input?.value.trim() === '' && !props.typed)
  return true
}

function finish(move: Move): void {
  if (completed()) emit('done', entered.value, move)
  else emit('cancel', move)
}

/** An overlay of the input, such as its list of suggestions, has the first say about keys. */
const listOpen = () =>
  !!document.querySelector('.p-autocomplete-overlay, .p-select-overlay, .p-multiselect-overlay, .p-popover')

function key(event: KeyboardEvent): void {
  if (command(event) === 'save') {
    finish('stay')
    emit('save')
    event.preventDefault()
    event.stopPropagation()
    return
  }
  if (event.isComposing) return
  const many = fieldTypes[props.heading.type].roomy
  if (listOpen() && event.key !== 'Tab') return
  if (event.key === 'Escape') emit('cancel', 'stay')
  else if (event.key === 'Tab') finish(event.shiftKey ? 'left' : 'right')
  else if (event.key === 'Enter' && (!many || event.ctrlKey)) finish('down')
  else return
  event.preventDefault()
  event.stopPropagation()
}

/** A value taken from a list of choices is all there is to enter. */
function picked(value: unknown): void {
  if (props.heading.type === 'choice' && listOpen()) emit('done', value, 'stay')
}

function leave(event: FocusEvent): void {
  const to = event.relatedTarget as HTMLElement | null
  if (
    !to ||
    root.value?.contains(to) ||
    to.closest('.p-overlay, .p-autocomplete-overlay, .p-select-overlay, .p-popover')
  )
    return
  finish('stay')
}
</script>

<template>
  <Teleport to="body">
    <div class="veil" @mousedown.prevent="finish('stay')" />
    <div
      ref="root"
      class="editor"
      role="dialog"
      :aria-label="heading.label"
      :style="{ left: left + 'px', top: box.top + 'px', minWidth: width + 'px' }"
      @keydown.capture="key"
      @keydown.stop
      @focusout="leave"
    >
      <ValueInput
        id="cell-editor"
        v-model="entered"
        :type="heading.type"
        :choices="choices"
        :label="heading.label"
        :currency="currency"
        :find="offered"
        closed
        @update:model-value="picked"
      />
      <button
        v-if="!heading.required && !['text', 'whole_number', 'decimal', 'long_text'].includes(heading.type)"
        type="button"
        class="plain link"
        @click="emit('done', null, 'stay')"
      >
        leave it empty
      </button>
    </div>
  </Teleport>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  z-index: 40;
}
.editor {
  position: fixed;
  z-index: 41;
  background: var(--panel);
  outline: 2px solid var(--accent);
  padding: 0.15rem;
  box-shadow: 0 4px 16px rgb(0 0 0 / 18%);
  box-sizing: border-box;
  max-width: 40rem;
}
.editor > .link {
  display: block;
  margin: 0.2rem;
  font-size: 0.9rem;
}
</style>
