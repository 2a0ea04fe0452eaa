<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Condition } from '@/api/types'
import ConditionGroup from './ConditionGroup.vue'
import { unfinished } from './unfinished'

/** Edits the conditions of a search or rule. One being made is written when it says
 *  something. */
defineProps<{ place: string; object: string }>()
const where = defineModel<Condition>({ required: true })
const draft = ref<Condition>({ all: [] })
watch(where, (w) => (draft.value = w), { immediate: true })

function set(next: Condition): void {
  draft.value = next
  if (!unfinished(next)) where.value = next
}
</script>

<template>
  <ConditionGroup :model-value="draft" :place="place" :object="object" @update:model-value="set" />
  <p v-if="unfinished(draft)" class="muted">
    A condition is not finished; the last finished ones stand until it is.
  </p>
</template>
