<script setup lang="ts">
import { useId } from 'vue'
import type { Asked } from '@/api/types'
import ValueInput from '@/fields/ValueInput.vue'
import { askedWidth } from './asked'

/** What a person may give in a row. Up and down lead to the same input of the rows beside it. */
const props = defineProps<{ ask: Asked[]; values: Record<string, unknown>; label: string }>()
const id = useId()
const emit = defineEmits<{ give: [key: string, value: unknown] }>()

function key(event: KeyboardEvent, asked: string): void {
  const step = { ArrowDown: 1, ArrowUp: -1, Enter: event.shiftKey ? -1 : 1 }[event.key]
  const here = event.target as HTMLElement
  if (!step || here.closest('[role=combobox]')) return
  let row = here.closest('tr')
  do row = (step > 0 ? row?.nextElementSibling : row?.previousElementSibling) as typeof row
  while (row && !row.querySelector(`[data-asked="${asked}"]`))
  const next = row?.querySelector<HTMLInputElement>(`[data-asked="${asked}"] input`)
  event.preventDefault()
  event.stopPropagation()
  next?.focus()
  next?.select()
}
</script>

<template>
  <span
    v-for="a in props.ask"
    :key="a.key"
    class="asked"
    :data-asked="a.key"
    :style="{ width: askedWidth(a) + 'px' }"
    @click.stop
    @dblclick.stop
    @keydown="key($event, a.key)"
  >
    <ValueInput
      :id="id + a.key"
      :model-value="values[a.key] ?? null"
      :type="a.type"
      :label="`${a.label} of ${label}`"
      @update:model-value="emit('give', a.key, $event)"
    />
  </span>
</template>

<style scoped>
.asked {
  display: inline-block;
  padding-right: 0.4rem;
  vertical-align: top;
}
.asked :deep(input:not([type='checkbox'])),
.asked :deep(.p-inputtext),
.asked :deep(.p-select) {
  width: 100%;
  padding: 0.1rem 0.4rem;
  font-size: inherit;
}
</style>
