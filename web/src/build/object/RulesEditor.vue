<script setup lang="ts">
import Button from 'primevue/button'
import type { Finding, Rule } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import FindingNote from '../sheet/FindingNote.vue'
import TextSlot from '../sheet/TextSlot.vue'
import ExpressionSlot from './ExpressionSlot.vue'
import type { Records } from './records'
import { ref } from 'vue'

/** What must hold of every record, each with what a person is told when it does not. */
defineProps<{ records: Records; record: number; recordLabel: string; findings: Finding[] }>()
const rules = defineModel<Rule[]>({ required: true })
// A new rule is written once it says both what must hold and what people are told.
const fresh = ref<Rule | null>(null)

function change(i: number, some: Partial<Rule>): void {
  rules.value = rules.value.map((r, n) => (n === i ? { ...r, ...some } : r))
}

function complete(some: Partial<Rule>): void {
  const next = { ...fresh.value!, ...some }
  fresh.value = next
  if (!next.expression.trim() || !next.message.trim()) return
  rules.value = [...rules.value, next]
  fresh.value = null
}
</script>

<template>
  <div class="rules">
    <div v-for="(r, i) in rules" :key="i" class="rule">
      <ExpressionSlot
        :model-value="r.expression"
        :label="'Rule ' + (i + 1)"
        :records="records"
        :record="record"
        :record-label="recordLabel"
        @update:model-value="change(i, { expression: $event })"
      />
      <span>otherwise</span>
      <TextSlot
        :model-value="r.message"
        :label="'What is said when rule ' + (i + 1) + ' is broken'"
        class="message"
        @update:model-value="change(i, { message: $event })"
      />
      <RemoveButton label="Remove the rule" @press="rules = rules.filter((_, n) => n !== i)" />
    </div>
    <div v-if="fresh" class="rule">
      <ExpressionSlot
        :model-value="fresh.expression"
        label="What must hold"
        placeholder="empty(ends) || ends > starts"
        :records="records"
        :record="record"
        :record-label="recordLabel"
        @update:model-value="complete({ expression: $event })"
      />
      <span>otherwise</span>
      <TextSlot
        :model-value="fresh.message"
        label="What a person is told"
        placeholder="it must end after it starts"
        class="message"
        @update:model-value="complete({ message: $event })"
      />
      <RemoveButton label="Do without the rule" @press="fresh = null" />
    </div>
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
    <p v-if="!rules.length && !fresh" class="muted">No rule beyond those of the fields.</p>
    <Button
      v-if="!fresh"
      text
      size="small"
      label="Add a rule"
      @click="fresh = { expression: '', message: '' }"
    />
  </div>
</template>

<style scoped>
.rules {
  display: flex;
  flex-direction: column;
  gap: 0.5rem;
  align-items: flex-start;
}
.rule {
  display: flex;
  gap: 0.6rem;
  align-items: flex-start;
  width: 100%;
}
.rule > span {
  padding-top: 0.3rem;
}
.message {
  flex: 1;
  min-width: 12rem;
}
p {
  margin: 0;
}
</style>
