<script setup lang="ts">
import AutoComplete, { type AutoCompleteCompleteEvent } from 'primevue/autocomplete'
import { ref } from 'vue'
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
// What is still on its way when one is chosen would open the list again.
let asked = 0

async function complete(event: AutoCompleteCompleteEvent): Promise<void> {
  const mine = ++asked
  const found = await props.find(event.query)
  if (mine === asked) options.value = found
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
    empty-search-message="Nothing of that name"
    @complete="complete"
    @item-select="asked++"
  />
</template>
