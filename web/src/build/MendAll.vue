<script setup lang="ts">
import Button from 'primevue/button'
import { computed, ref } from 'vue'
import { findIn } from '@/api/options'
import type { Obstacle } from '@/api/types'
import ValueInput from '@/fields/ValueInput.vue'
import { target, useBuild } from './build'

/** Gives all records in the way one value for the field as it is now. */
const props = defineProps<{ obstacle: Obstacle }>()
const emit = defineEmits<{ mend: [value: unknown] }>()
const build = useBuild()
const field = computed(() => build.fieldAt(props.obstacle.object, props.obstacle.field))
const value = ref<unknown>(null)
// A value may be taken away where that is no obstacle itself.
const mayEmpty = computed(() => props.obstacle.rule === 'value' && !field.value?.required)
const find = (text: string) => findIn(() => target(field.value!))(text)
</script>

<template>
  <form v-if="field" class="row" @submit.prevent="emit('mend', value)">
    {{ obstacle.count === 1 ? 'Give it' : `Give all ${obstacle.count}` }} the value
    <ValueInput
      :id="'mend-' + obstacle.field + obstacle.rule"
      v-model="value"
      :type="field.type"
      :choices="field.choices"
      :currency="build.contents?.currency"
      :label="'Value for ' + field.label"
      :find="find"
    />
    <Button type="submit" size="small" label="Change them" :disabled="value === null && !mayEmpty" />
    <span v-if="mayEmpty" class="muted">or leave it empty to take their values away</span>
  </form>
</template>
