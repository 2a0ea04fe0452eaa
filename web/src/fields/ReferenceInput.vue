<script setup lang="ts">
import AutoComplete, { type AutoCompleteCompleteEvent } from 'primevue/autocomplete'
import { ref } from 'vue'
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
const options = ref<Ref[]>([])
const failed = ref('')
// What is still on its way when one is chosen would open the list again.
const question = latest()

async function complete(event: AutoCompleteCompleteEvent): Promise<void> {
  const isLatest = question.ask()
  failed.value = ''
  try {
    const found = await props.find(event.query)
    if (isLatest()) options.value = found
  } catch (error) {
    if (!isLatest()) return
    failed.value = titleOf(error)
    options.value = []
  }
}
</script>

<template>
  <AutoComplete
    v-model="chosen"
    :input-id="id"
    :aria-label="label"
    :suggestions="options"
    option-label="label"
    :delay="150"
    :min-length="0"
    :invalid="invalid"
    :placeholder="placeholder"
    complete-on-focus
    force-selection
    fluid
    :empty-search-message="failed || 'Nothing of that name'"
    @complete="complete"
    @item-select="question.ask()"
  />
</template>
