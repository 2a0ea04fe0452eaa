<script setup lang="ts">
import AutoComplete, { type AutoCompleteCompleteEvent } from 'primevue/autocomplete'
import { ref, watch } from 'vue'
import { titleOf } from '@/api/client'
import { latest } from '@/api/latest'
import type { Ref } from '@/api/types'

const props = defineProps<{
  id: string
  find: (text: string) => Promise<Ref[]>
  invalid?: boolean
  placeholder?: string
  /** The name for people who hear it, where no label stands beside it. */
  label?: string
}>()
const chosen = defineModel<Ref | null>({ required: true })
// What stands in the input: a record, or what is being typed to find one.
const shown = ref<Ref | string | null>(chosen.value)
const options = ref<Ref[]>([])
const failed = ref('')
// What is still on its way when one is chosen would open the list again.
const question = latest()
// The input gets the focus back when one was chosen, which asks for nothing.
let justChosen = false

/** A record whose name is empty is told by its number. */
const called = (record: Ref) => record.label || `No. ${record.id}`

watch(chosen, (record) => {
  if (record || typeof shown.value !== 'string') shown.value = record
})

function show(value: Ref | string | null): void {
  shown.value = value
  chosen.value = typeof value === 'string' ? null : value
}

async function complete(event: AutoCompleteCompleteEvent): Promise<void> {
  // Whoever has gone on meanwhile is not held up by a list.
  if (document.activeElement?.id !== props.id) return
  const record = typeof shown.value === 'string' ? null : shown.value
  // What was typed before one was chosen is not asked any more.
  if (record && (justChosen || event.query !== called(record))) return
  const isLatest = question.ask()
  failed.value = ''
  try {
    const found = await props.find(record ? '' : event.query)
    if (isLatest()) options.value = found
  } catch (error) {
    if (!isLatest()) return
    failed.value = titleOf(error)
    options.value = []
  }
}

function choose(): void {
  justChosen = true
  question.ask()
}

/**
 * What is only typed is no record; the one that is called exactly so is meant. A press on the list takes the focus
 * first: what is still on its way by then would change the list under the pointer, and the press would be lost.
 */
function settle(): void {
  justChosen = false
  question.ask()
  if (typeof shown.value !== 'string') return
  const text = shown.value.trim().toLowerCase()
  const meant = options.value.filter((option) => called(option).toLowerCase() === text)
  show(meant.length === 1 ? meant[0]! : null)
}
</script>

<template>
  <AutoComplete
    :model-value="shown"
    :input-id="id"
    :aria-label="label"
    :suggestions="options"
    :option-label="called"
    data-key="id"
    :delay="150"
    :min-length="0"
    :invalid="invalid"
    :placeholder="placeholder"
    complete-on-focus
    fluid
    :empty-search-message="failed || 'Nothing of that name'"
    @update:model-value="show"
    @complete="complete"
    @item-select="choose"
    @blur="settle"
  />
</template>
