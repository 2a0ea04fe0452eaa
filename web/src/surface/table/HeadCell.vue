<script setup lang="ts">
import { IconChevronDown, IconChevronUp, IconDots } from '@tabler/icons-vue'
import { computed } from 'vue'
import type { Heading, Look } from '@/api/types'
import { fieldTypes } from '@/fields/fields'

/** The head of a column: pressing it orders, its menu does the rest, its edge resizes. */
const props = defineProps<{ heading: Heading; look: Look; width: number }>()
const emit = defineEmits<{ sort: [add: boolean]; menu: [event: Event]; resize: [pixels: number]; fit: [] }>()

const rank = computed(() => (props.look.order ?? []).findIndex((o) => o.path === props.heading.path))
const order = computed(() => props.look.order?.[rank.value])
const several = computed(() => (props.look.order?.length ?? 0) > 1)

function drag(event: PointerEvent): void {
  const from = event.clientX
  const was = props.width
  const grip = event.target as HTMLElement
  grip.setPointerCapture(event.pointerId)
  const move = (e: PointerEvent) => emit('resize', was + e.clientX - from)
  grip.addEventListener('pointermove', move)
  grip.addEventListener('pointerup', () => grip.removeEventListener('pointermove', move), { once: true })
}
</script>

<template>
  <span class="head" :class="fieldTypes[heading.type].right ? 'right' : 'left'">
    <button
      type="button"
      class="plain name"
      tabindex="-1"
      :title="heading.label + ': press to order, with Shift to order within the order there is'"
      @click="emit('sort', $event.shiftKey || $event.ctrlKey || $event.metaKey)"
    >
      {{ heading.label }}
    </button>
    <span v-if="order" class="rank">
      <component :is="order.desc ? IconChevronDown : IconChevronUp" :size="14" aria-hidden="true" />
      <sup v-if="several">{{ rank + 1 }}</sup>
    </span>
    <button
      type="button"
      class="plain menu"
      tabindex="-1"
      aria-haspopup="menu"
      :aria-label="'What to do with ' + heading.label"
      @click="emit('menu', $event)"
    >
      <IconDots :size="14" />
    </button>
    <span
      class="grip"
      draggable="true"
      @pointerdown.stop="drag"
      @dragstart.prevent.stop
      @dblclick="emit('fit')"
    />
  </span>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 0.15rem;
  min-width: 0;
}
.right {
  justify-content: flex-end;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: 600;
}
.rank {
  display: inline-flex;
  color: var(--accent);
}
sup {
  font-size: 0.7rem;
}
.menu {
  opacity: 0;
  color: var(--muted);
  line-height: 0;
  padding: 0.15rem;
}
th:hover .menu,
th:focus-within .menu,
.menu:focus-visible {
  opacity: 1;
}
.left .menu {
  margin-left: auto;
}
.grip {
  position: absolute;
  right: -3px;
  top: 0;
  bottom: 0;
  width: 7px;
  cursor: col-resize;
  touch-action: none;
  z-index: 1;
}
/* Beyond the last column it would make the table scroll. */
:global(th:last-child .grip) {
  right: 0;
}
.grip:hover {
  background: linear-gradient(to right, transparent 3px, var(--accent) 3px 5px, transparent 5px);
}
</style>
