<script setup lang="ts">
import { computed } from 'vue'
import type { Day } from '@/fields/zone'
import { clock, type Entry } from './days'

/** A record on one of its days; whole where it is drawn along all of them. */
const props = defineProps<{ entry: Entry; day: Day; says: string[]; wrap?: boolean; whole?: boolean }>()
defineEmits<{ open: [] }>()
const time = computed(() =>
  props.entry.from === props.day && props.entry.at !== undefined ? clock(props.entry.at) : '',
)
const words = computed(() => [time.value, props.entry.label, ...props.says].filter(Boolean).join(', '))
</script>

<template>
  <button
    type="button"
    class="plain entry"
    :class="{ goes: !whole && entry.to > day, comes: entry.from < day, wrap }"
    :title="words"
    @click="$emit('open')"
  >
    <span v-if="time" class="muted">{{ time }}</span> {{ entry.label }}
    <small v-for="(s, i) in wrap ? says : []" :key="i">{{ s }}</small>
  </button>
</template>

<style scoped>
.entry {
  display: block;
  width: 100%;
  padding: 0.1rem 0.35rem;
  overflow: hidden;
  border-left: 3px solid var(--accent);
  background: var(--tint);
  color: var(--ink);
  font-size: 0.85rem;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.entry:hover {
  text-decoration: underline;
}
.comes {
  border-left-style: dotted;
}
.goes {
  border-right: 3px dotted var(--accent);
}
.wrap {
  white-space: normal;
  overflow-wrap: anywhere;
}
small {
  display: block;
  color: var(--muted);
}
</style>
