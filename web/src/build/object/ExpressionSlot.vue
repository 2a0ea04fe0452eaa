<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import InputText from 'primevue/inputtext'
import { ref, watch } from 'vue'
import { titleOf } from '@/api/client'
import { latest } from '@/api/latest'
import type { Evaluated } from '@/api/types'
import type { Records } from './records'

/** An expression over a record, with what it comes to for the record at hand. */
const props = defineProps<{
  label: string
  placeholder?: string
  records: Records
  record: number
  recordLabel: string
}>()
const expression = defineModel<string>({ required: true })
const text = ref('')
const result = ref<Evaluated | null>(null)
const failed = ref('')
const question = latest()
watch(expression, (e) => (text.value = e), { immediate: true })

const attempt = useDebounceFn(async () => {
  const isLatest = question.ask()
  failed.value = ''
  if (!text.value.trim()) {
    result.value = null
    return
  }
  try {
    const found = await props.records.evaluate(text.value, props.record)
    if (isLatest()) result.value = found
  } catch (error) {
    if (isLatest()) failed.value = titleOf(error)
  }
}, 150)
watch([text, () => props.record], () => attempt(), { immediate: true })

function commit(): void {
  if (text.value !== expression.value) expression.value = text.value
}
</script>

<template>
  <div class="slot">
    <InputText
      v-model="text"
      size="small"
      class="expression"
      :aria-label="label"
      :placeholder="placeholder"
      :invalid="!!result?.problem"
      spellcheck="false"
      @blur="commit"
      @keydown.enter.prevent="commit"
    />
    <small v-if="failed" class="bad" role="alert">{{ failed }}</small>
    <small v-else-if="result?.problem" class="bad" role="alert">
      {{ result.problem.text
      }}<template v-if="result.problem.place"> (at character {{ result.problem.place.offset + 1 }})</template>
      <button
        v-if="result.problem.instead"
        type="button"
        class="plain link"
        @click="text = result.problem.instead"
      >
        Use {{ result.problem.instead }}
      </button>
    </small>
    <small v-else-if="result && record" class="muted" aria-live="polite"
      >{{ recordLabel }}: <strong>{{ result.shown || 'empty' }}</strong></small
    >
  </div>
</template>

<style scoped>
.slot {
  flex: 1;
  min-width: 16rem;
}
.expression {
  width: 100%;
  font-family: ui-monospace, monospace;
}
small {
  display: block;
}
</style>
