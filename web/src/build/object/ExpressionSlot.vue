<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import InputText from 'primevue/inputtext'
import { computed, nextTick, ref, useId, watch } from 'vue'
import { useAsked } from '@/api/asked'
import { afterPress } from '@/frame/press'
import FunctionsHelp from '../FunctionsHelp.vue'
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
watch(expression, (e) => (text.value = e), { immediate: true })

const id = useId()
const asked = refDebounced(text, 150)
const { found, failed } = useAsked(
  () => ['evaluate', id, asked.value, props.record],
  () => props.records.evaluate(asked.value, props.record),
  { when: () => !!asked.value.trim(), fresh: true, lasting: true },
)
const result = computed(() => (text.value.trim() ? found.value : undefined))

const input = ref<InstanceType<typeof InputText> | null>(null)

/** A function goes where the cursor is. */
async function insert(form: string): Promise<void> {
  const element = (input.value as unknown as { $el: HTMLInputElement }).$el
  const at = element.selectionStart ?? text.value.length
  text.value = text.value.slice(0, at) + form + text.value.slice(element.selectionEnd ?? at)
  await nextTick()
  element.focus()
  element.setSelectionRange(at, at + form.length)
}

function commit(): void {
  if (text.value !== expression.value) expression.value = text.value
}
</script>

<template>
  <div class="slot">
    <InputText
      ref="input"
      v-model="text"
      size="small"
      class="expression"
      :aria-label="label"
      :placeholder="placeholder"
      :invalid="!!result?.problem"
      spellcheck="false"
      @blur="afterPress(commit)"
      @keydown.enter.prevent="commit"
    />
    <small v-if="failed" class="bad" role="alert">{{ failed }}</small>
    <small v-else-if="result?.problem" class="bad" role="alert">
      {{ result.problem.text
      }}<template v-if="result.problem.position">
        (at character {{ result.problem.position.offset + 1 }})</template
      >
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
    <small><FunctionsHelp @take="insert" /></small>
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
