<script setup lang="ts">
import { IconX } from '@tabler/icons-vue'
import { computed } from 'vue'
import type { Condition } from '@/api/types'
import type { Arranging } from './arranging'
import type { Table } from './table'
import { conditionWords, groupWords, orderWords } from './words'

/** How the table is looked at, as a sentence whose parts can be changed and taken away. */
const props = defineProps<{ table: Table; arranging: Arranging }>()
const emit = defineEmits<{ edit: [index: number, event: Event] }>()
const look = computed(() => props.table.arrangement.value.look)
const label = (path: string) => props.table.headingOf(path)?.label ?? path
const spans = { month: ', by month', year: ', by year' } as Record<string, string>

const words = (c: Condition) => conditionWords(c, props.table.headingOf(c.field ?? ''))

const hiddenWords = computed(() => {
  const g = look.value.group
  const key = g?.hidden?.[0]
  return g ? groupWords({ key }, g, props.table.headingOf(g.path)) : ''
})

function without(index: number): void {
  props.arranging.filter((look.value.filter ?? []).filter((_, i) => i !== index))
}

function unordered(path: string): void {
  const order = (look.value.order ?? []).filter((o) => o.path !== path)
  void props.table.lookAt({ order: order.length ? order : undefined })
}

const clear = () => props.table.lookAt({ filter: undefined, order: undefined, group: undefined })
const any = computed(() => look.value.filter?.length || look.value.order?.length || look.value.group)
</script>

<template>
  <p v-if="any" class="sentence">
    <template v-for="(c, i) in look.filter ?? []" :key="i">
      {{ i ? 'and' : 'Filtered by' }}
      <span class="chip">
        <button type="button" class="plain" @click="emit('edit', i, $event)">{{ words(c) }}</button>
        <button type="button" class="plain x" :aria-label="'Without: ' + words(c)" @click="without(i)">
          <IconX :size="13" />
        </button>
      </span>
    </template>
    <template v-for="(o, i) in look.order ?? []" :key="o.path">
      {{ i ? 'then' : look.filter?.length ? '· ordered by' : 'Ordered by' }}
      <span class="chip">
        <button type="button" class="plain" @click="arranging.orderBy(o.path, true)">
          {{ label(o.path) }}, {{ orderWords(o.desc, table.headingOf(o.path)?.type) }}
        </button>
        <button
          type="button"
          class="plain x"
          :aria-label="'Not ordered by ' + label(o.path)"
          @click="unordered(o.path)"
        >
          <IconX :size="13" />
        </button>
      </span>
    </template>
    <template v-if="look.group">
      {{ look.filter?.length || look.order?.length ? '· in groups of' : 'In groups of' }}
      <span class="chip">
        {{ label(look.group.path) }}{{ spans[look.group.span ?? ''] }}
        <button
          type="button"
          class="plain x"
          aria-label="Without groups"
          @click="table.lookAt({ group: undefined })"
        >
          <IconX :size="13" />
        </button>
      </span>
      <span v-if="look.group.hidden?.length" class="chip">
        without {{ look.group.hidden.length === 1 ? hiddenWords : look.group.hidden.length + ' of them' }}
        <button
          type="button"
          class="plain x"
          aria-label="With all groups"
          @click="table.lookAt({ group: { ...look.group, hidden: undefined } })"
        >
          <IconX :size="13" />
        </button>
      </span>
      <template v-if="table.headingOf(look.group.path)?.type === 'choice'">
        <button
          type="button"
          class="plain link"
          @click="table.lookAt({ group: { ...look.group, empty: look.group.empty ? undefined : true } })"
        >
          {{ look.group.empty ? 'without empty ones' : 'with empty ones' }}
        </button>
      </template>
      <button
        type="button"
        class="plain link"
        @click="table.lookAt({ group: { ...look.group, fixed: look.group.fixed ? undefined : true } })"
      >
        {{ look.group.fixed ? 'to be opened' : 'all open' }}
      </button>
    </template>
    <button type="button" class="plain link" @click="clear">as it was</button>
  </p>
</template>

<style scoped>
.sentence {
  margin: 0 0 0.4rem;
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0.3rem;
}
.chip {
  display: inline-flex;
  align-items: center;
  gap: 0.25rem;
  background: var(--tint);
  border-radius: 4px;
  padding: 0 0.2rem 0 0.4rem;
}
.chip > .plain:first-child:hover {
  text-decoration: underline;
}
.x {
  line-height: 0;
  padding: 0.2rem;
  color: var(--muted);
}
.link {
  margin-left: 0.3rem;
}
</style>
