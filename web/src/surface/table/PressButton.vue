<script setup lang="ts">
import { computed } from 'vue'
import type { ButtonView } from '@/api/types'
import type { Buttons } from './buttons'

/** A button that says why it is off when it is: hovered, focused or pressed. */
const props = defineProps<{ button: ButtonView; buttons: Buttons; row?: number }>()
const why = computed(() => props.buttons.why(props.button, props.row))
const holds = computed(() => props.buttons.holds(props.button, props.row))
</script>

<template>
  <button
    type="button"
    class="plain press"
    :class="{ off: why, small: row !== undefined }"
    :aria-disabled="!!why"
    :aria-description="why || undefined"
    :title="why || undefined"
    :aria-busy="!!holds || undefined"
    :disabled="!!holds"
    :tabindex="row === undefined ? undefined : -1"
    @click.stop="buttons.press(button, row)"
  >
    <span :role="holds ? 'status' : undefined">{{ holds || button.label }}</span>
  </button>
</template>

<style scoped>
.press {
  border: 1px solid var(--accent);
  border-radius: 4px;
  color: var(--accent);
  padding: 0.15rem 0.7rem;
  background: var(--panel);
  font-weight: 600;
  font-size: 0.92rem;
}
.small {
  padding: 0 0.45rem;
  font-size: 0.85rem;
}
.press:hover:not(.off) {
  background: var(--tint);
}
.off {
  position: relative;
  border-color: var(--line);
  color: var(--muted);
  cursor: help;
}
/* The pointer has the title; the keyboard has this. */
.off:focus-visible::after {
  content: attr(aria-description);
  position: absolute;
  inset-block-start: calc(100% + 4px);
  inset-inline-start: 0;
  z-index: 5;
  inline-size: max-content;
  max-inline-size: 24rem;
  padding: 0.3rem 0.6rem;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--panel);
  color: var(--ink);
  font-weight: 400;
  text-align: start;
}
</style>
