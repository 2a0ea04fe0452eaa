<script setup lang="ts">
import { computed } from 'vue'
import type { PartProps } from './parts'
import SeveralInput from '@/fields/SeveralInput.vue'
import ValueInput from '@/fields/ValueInput.vue'

const props = defineProps<PartProps>()
const value = defineModel<unknown>({ required: true })
const input = computed(() => props.part.input!)
const id = computed(() => 'in-' + props.part.key)
</script>

<template>
  <div class="input">
    <label :id="id + '-label'" :for="id">
      {{ part.label }}<span v-if="!input.required" class="muted"> (optional)</span>
    </label>
    <SeveralInput
      v-if="input.several"
      :id="id"
      v-model="value"
      :type="input.type"
      :invalid="!!problem"
      :described-by="problem ? id + '-problem' : input.help ? id + '-help' : undefined"
      :find="(text) => source.options(part.key, text)"
    />
    <ValueInput
      v-else
      :id="id"
      v-model="value"
      :type="input.type"
      :choices="input.choices"
      :invalid="!!problem"
      :described-by="problem ? id + '-problem' : input.help ? id + '-help' : undefined"
      :find="(text) => source.options(part.key, text)"
    />
    <small v-if="input.help" :id="id + '-help'" class="muted">{{ input.help }}</small>
    <small v-if="problem" :id="id + '-problem'" class="bad" role="alert">{{ problem }}</small>
  </div>
</template>

<style scoped>
.input {
  display: flex;
  flex-direction: column;
  gap: 0.25rem;
  max-width: 34rem;
}
label {
  font-weight: 600;
}
</style>
