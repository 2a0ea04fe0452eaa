<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import MultiSelect from 'primevue/multiselect'
import { computed } from 'vue'
import { longList } from '../longlist'
import type { InputProps } from './input'

/** Several of some choices, in their order, whatever order they were ticked in. */
const props = defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })

const several = computed({
  get: () => (value.value as string[] | null) ?? [],
  set: (keys: string[]) => {
    const now = (props.choices ?? []).map((c) => c.key).filter((k) => keys.includes(k))
    value.value = now.length ? now : null
  },
})
</script>

<template>
  <span
    v-if="(choices?.length ?? 0) <= 8"
    class="choices"
    role="group"
    :aria-label="label"
    :aria-labelledby="label ? undefined : id + '-label'"
  >
    <label v-for="c in choices" :key="c.key">
      <Checkbox v-model="several" :value="c.key" :invalid="invalid" /> {{ c.label }}
    </label>
  </span>
  <MultiSelect
    v-else
    v-model="several"
    :input-id="id"
    :options="choices"
    option-label="label"
    option-value="key"
    filter
    :virtual-scroller-options="longList(choices)"
    display="chip"
    placeholder="Choose"
    :aria-label="label"
    :invalid="invalid"
    fluid
  />
</template>

<style scoped src="./choices.css"></style>
