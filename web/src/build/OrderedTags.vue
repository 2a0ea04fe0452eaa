<script setup lang="ts" generic="T">
import { IconArrowLeft, IconArrowRight } from '@tabler/icons-vue'
import RemoveButton from '@/frame/RemoveButton.vue'

/** Things in their order: each can be pressed, moved and taken out. */
const props = defineProps<{
  keyOf: (item: T) => string
  name: (item: T) => string
  /** What pressing one shows, and what taking one out is called, before its name. */
  presses: string
  removes: string
}>()
const items = defineModel<T[]>({ required: true })
const emit = defineEmits<{ press: [index: number, event: Event] }>()

function move(i: number, by: number): void {
  const list = [...items.value]
  list.splice(i + by, 0, ...list.splice(i, 1))
  items.value = list
}

const label = (words: string, item: T) => `${words} ${props.name(item)}`
</script>

<template>
  <span v-for="(item, i) in items" :key="keyOf(item)" class="tag">
    <button v-if="i" type="button" class="plain" :aria-label="label('Move left:', item)" @click="move(i, -1)">
      <IconArrowLeft :size="13" />
    </button>
    <button
      type="button"
      class="plain name"
      :aria-label="label(presses, item)"
      @click="emit('press', i, $event)"
    >
      {{ name(item) }}<slot :item="item" />
    </button>
    <button
      v-if="i < items.length - 1"
      type="button"
      class="plain"
      :aria-label="label('Move right:', item)"
      @click="move(i, 1)"
    >
      <IconArrowRight :size="13" />
    </button>
    <RemoveButton :label="label(removes, item)" @press="items = items.filter((_, n) => n !== i)" />
  </span>
</template>

<style scoped>
.tag {
  display: inline-flex;
  align-items: center;
  gap: 0.25rem;
  background: var(--tint);
  padding-left: 0.5rem;
  border-radius: 4px;
}
.plain {
  color: var(--muted);
  line-height: 0;
}
.plain.name {
  color: inherit;
  line-height: inherit;
}
</style>
