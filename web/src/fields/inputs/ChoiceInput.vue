<script setup lang="ts">
import RadioButton from 'primevue/radiobutton'
import Select from 'primevue/select'
import { computed } from 'vue'
import { longList } from '../longlist'
import type { InputProps } from './input'

/** One of several choices: side by side when they are few, in a list that opens when they are more. */
const props = defineProps<InputProps>()
const value = defineModel<unknown>({ required: true })
const few = computed(() => !props.closed && (props.choices?.length ?? 0) <= 4)
</script>

<template>
  <span
    v-if="few"
    class="choices"
    role="radiogroup"
    :aria-label="label"
    :aria-labelledby="label ? undefined : id + '-label'"
  >
    <label v-for="c in choices" :key="c.key">
      <RadioButton v-model="value" :name="id" :value="c.key" :invalid="invalid" /> {{ c.label }}
    </label>
  </span>
  <Select
    v-else
    v-model="value"
    :input-id="id"
    :options="choices"
    option-label="label"
    option-value="key"
    :filter="!!longList(choices)"
    :virtual-scroller-options="longList(choices)"
    show-clear
    placeholder="Choose"
    :aria-label="label"
    :invalid="invalid"
  />
</template>

<style scoped src="./choices.css"></style>
