<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import Popover from 'primevue/popover'
import { ref } from 'vue'

/**
 * A panel beside what opens it. It closes when somebody begins to press elsewhere, not when
 * the press ends: a list in it may be gone by then, and the press would count as one outside.
 */
const panel = ref<InstanceType<typeof Popover> | null>(null)
const shown = ref(false)
let opener: EventTarget | null = null
// Where the press was that closed it.
let closedAt: Element | null = null

const inside =
  '.p-popover, .p-select-overlay, .p-autocomplete-overlay, .p-multiselect-overlay, .p-menu, .p-dialog'

useEventListener(
  document,
  'pointerdown',
  (event: PointerEvent) => {
    const target = event.target as Element
    closedAt = null
    if (!shown.value || target.closest(inside)) return
    closedAt = target
    hide()
  },
  { capture: true },
)

function show(event: Event): void {
  opener = event.currentTarget
  panel.value?.show(event)
}

function hide(): void {
  panel.value?.hide()
}

/** Opens it, or closes it when it was open before the press. */
function toggle(event: Event): void {
  const by = event.currentTarget as Element | null
  const closing = closedAt && opener === by && by?.contains(closedAt)
  closedAt = null
  if (shown.value) hide()
  else if (!closing) show(event)
}

defineExpose({ show, hide, toggle })
</script>

<template>
  <Popover ref="panel" :dismissable="false" @show="shown = true" @hide="shown = false"><slot /></Popover>
</template>
