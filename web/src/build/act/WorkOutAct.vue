<script setup lang="ts">
import type { WorkOut } from '@/api/types'
import KnownPicker from '../conditions/KnownPicker.vue'

/** Makes a value known that is worked out from others. */
defineProps<{ place: string }>()
const work = defineModel<WorkOut>({ required: true })
</script>

<template>
  <div class="row">
    It is
    <KnownPicker
      :model-value="work.value"
      :place="place"
      label="What is worked out"
      placeholder="an expression, such as size(found) > 3"
      class="wide"
      @update:model-value="work = { value: $event }"
    />
  </div>
</template>

<style scoped>
.wide {
  flex: 1;
}
</style>
