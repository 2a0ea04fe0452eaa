<script setup lang="ts">
import { useEventListener, useResizeObserver } from '@vueuse/core'
import Popover from 'primevue/popover'
import { nextTick, ref } from 'vue'

/**
 * A panel beside what opens it. The keyboard goes into it, and back when it closes. It
 * closes when somebody begins to press elsewhere, not when the press ends: a list in it may
 * be gone by then, and the press would count as one outside.
 */
const panel = ref<InstanceType<typeof Popover> | null>(null)
const shown = ref(false)
let opener: EventTarget | null = null
// Where the press was that closed it.
let closedAt: Element | null = null
let before: HTMLElement | null = null
const body = ref<HTMLElement | null>(null)
const controls = 'button:not(:disabled), input:not(:disabled), a[href], select, textarea, [tabindex="0"]'

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

/** It stands where there is room; the popover by itself never forgets that it once stood above. */
function align(): void {
  const popover = body.value?.closest('.p-popover')
  popover?.classList.remove('p-popover-flipped')
  popover?.removeAttribute('data-p-popover-flipped')
  panel.value?.alignOverlay()
}
// What is in it is often read only then.
useResizeObserver(body, () => shown.value && align())

/**
 * What is under it may move, as when something above is read at last: it goes along. The
 * popover by itself would close, and lose what was typed into it.
 */
useEventListener(
  window,
  'scroll',
  (event: Event) => {
    if (!shown.value || body.value?.contains(event.target as Node)) return
    const at = (opener as Element | null)?.getBoundingClientRect()
    if (!at || at.bottom < 0 || at.top > window.innerHeight) hide()
    else align()
  },
  { capture: true, passive: true },
)

function show(event: Event): void {
  opener = event.currentTarget
  before = document.activeElement as HTMLElement | null
  panel.value?.show(event)
}

async function opened(): Promise<void> {
  shown.value = true
  ;(panel.value as unknown as { unbindScrollListener(): void }).unbindScrollListener()
  await nextTick()
  if (body.value?.contains(document.activeElement)) return
  const first = body.value?.querySelector<HTMLElement>(controls)
  ;(first ?? body.value)?.focus({ preventScroll: true })
}

function closed(): void {
  shown.value = false
  // A press elsewhere takes the keyboard there.
  if (!closedAt && before?.isConnected) before.focus({ preventScroll: true })
  before = null
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
  <Popover ref="panel" :dismissable="false" @show="opened" @hide="closed">
    <div ref="body" tabindex="-1" class="body"><slot /></div>
  </Popover>
</template>

<style scoped>
.body:focus {
  outline: none;
}
</style>
