<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Heading, MarkView } from '@/api/types'
import CellValue from '@/fields/CellValue.vue'
import { fieldTypes } from '@/fields/fields'
import type { SurfaceSource } from '../source'
import MarkWord from './MarkWord.vue'

/** One cell: on one line, long text on two until more of it is asked for. */
const props = defineProps<{
  heading: Heading
  value: unknown
  source: SurfaceSource
  opens: string | null
  /** What sets the cell apart. */
  marks?: MarkView[]
  /** Changed and not saved yet. */
  changed: boolean
  problem: string
  clash: boolean
}>()
const whole = ref(false)
const long = computed(() => props.heading.type === 'long_text' && String(props.value ?? '').length > 90)
// What is a link of its own does not lead to the record besides.
const link = computed(() => (fieldTypes[props.heading.type].linked ? null : props.opens))
</script>

<template>
  <td
    role="gridcell"
    :class="{ changed, wrong: problem, clash }"
    :title="problem || (changed ? 'changed, not saved yet' : undefined)"
    :aria-invalid="!!problem || undefined"
    :aria-readonly="!heading.editable"
  >
    <span v-if="changed" class="mark" aria-hidden="true">✎</span>
    <MarkWord v-for="m in marks" :key="m.says" :mark="m" class="says" />
    <span :class="{ line: heading.type !== 'long_text', lines: long && !whole }">
      <RouterLink v-if="link" :to="link" :target="source.beside ? '_blank' : undefined" tabindex="-1">
        <CellValue :heading="heading" :value="value" />
      </RouterLink>
      <CellValue v-else :heading="heading" :value="value" :source="source" />
    </span>
    <button v-if="long" type="button" class="plain link" tabindex="-1" @click.stop="whole = !whole">
      {{ whole ? 'less' : 'more' }}
    </button>
    <span v-if="problem" class="why">{{ problem }}</span>
  </td>
</template>

<style scoped>
td {
  display: block;
  min-width: 0;
  padding: 0.28rem 0.6rem;
  border-bottom: 1px solid var(--line);
  overflow: hidden;
}
.says {
  float: right;
  margin-left: 0.4rem;
}
td.changed {
  background: var(--tint);
}
.mark {
  float: right;
  font-size: 0.75rem;
  color: var(--accent);
}
td.wrong {
  box-shadow: inset 0 -2px var(--bad);
}
td.clash {
  box-shadow: inset 0 -2px var(--care);
}
.why {
  display: block;
  color: var(--bad);
  font-size: 0.85rem;
}
td:focus-visible {
  outline-offset: -2px;
}
.line {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.lines {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
</style>
