<script setup lang="ts">
import Menu from 'primevue/menu'
import type { MenuItem } from 'primevue/menuitem'
import { computed, ref } from 'vue'
import type { Heading, LookTotal } from '@/api/types'
import { fieldTypes } from '@/fields/fields'
import type { Arranging } from './arranging'
import type { Table } from './table'
import { aggregateWord, sameTotal, spans } from './words'

/** What can be done with a column. */
const props = defineProps<{ table: Table; arranging: Arranging }>()
const emit = defineEmits<{ filter: [heading: Heading]; closed: [column: number] }>()

const menu = ref<InstanceType<typeof Menu> | null>(null)
const menuFor = ref(0)

function open(event: Event, column: number): void {
  menuFor.value = column
  menu.value?.toggle(event)
}

function totalling(t: LookTotal, word: string): MenuItem {
  const shown = (props.table.look.value.totals ?? []).some((o) => sameTotal(o, t))
  return { label: `${shown ? 'Without' : 'Show'} the ${word}`, command: () => props.arranging.total(t) }
}

const actions = computed<MenuItem[]>(() => {
  const c = props.table.columns.value[menuFor.value]
  if (!c) return []
  const a = props.arranging
  const pinned = props.table.arrangement.value.pinned ?? 0
  const kind = fieldTypes[c.type]
  const dated = kind.family === 'time'
  return [
    { label: 'Order up', command: () => a.order(c.path, false) },
    { label: 'Order down', command: () => a.order(c.path, true) },
    { label: 'Filter …', command: () => emit('filter', c) },
    { separator: true },
    ...(kind.family === 'file' || c.type === 'long_text'
      ? []
      : dated
        ? spans.map(({ key, label }) => ({ label: `Group by ${label}`, command: () => a.group(c, key) }))
        : [{ label: 'Group by it', command: () => a.group(c) }]),
    ...kind.aggregates.map((of) => totalling({ path: c.path, of }, aggregateWord(of, c.type))),
    // Amounts of several currencies come to one sum where the app has rates.
    ...(c.type === 'money' && props.table.converts.value
      ? [totalling({ path: c.path, of: 'sum', converted: true }, `sum in ${props.table.converts.value}`)]
      : []),
    { separator: true },
    pinned > menuFor.value
      ? { label: 'Let it scroll', command: () => a.pin(menuFor.value) }
      : { label: 'Keep in sight up to here', command: () => a.pin(menuFor.value + 1) },
    { label: 'Fit its width', command: () => a.fit(c.path) },
    ...(props.table.columns.value.length > 1 ? [{ label: 'Hide', command: () => a.hide(c.path) }] : []),
  ]
})

defineExpose({ open })
</script>

<template>
  <Menu ref="menu" :model="actions" popup @hide="emit('closed', menuFor)" />
</template>
