<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import type { Name } from '@/api/types'
import type { Line, Wiring } from './wiring'

/** Lines from what feeds a part to it, and from it to what it feeds, each with the value that goes along it. */
const props = defineProps<{
  wiring: Wiring
  part: string
  names: Name[]
  /** Whatever this is, where it changes parts may lie elsewhere. */
  changes: unknown
}>()

interface Drawn {
  line: Line
  path: string
  x: number
  y: number
  feeds: boolean
}
const overlay = ref<SVGSVGElement | null>(null)
const drawn = shallowRef<Drawn[]>([])
const size = ref({ width: 0, height: 0 })

const called = (key: string) => props.names.find((n) => n.key === key)?.label || key

/** Where a part lies in what scrolls; nothing for one behind another tab. */
function lies(key: string): DOMRect | undefined {
  const room = overlay.value?.parentElement
  const at = room?.querySelector(`[data-part="${CSS.escape(key)}"]`)?.getBoundingClientRect()
  if (!room || !at?.height) return undefined
  const origin = room.getBoundingClientRect()
  return new DOMRect(
    at.x - origin.x + room.scrollLeft,
    at.y - origin.y + room.scrollTop,
    at.width,
    Math.min(at.height, 400),
  )
}

function curve(line: Line, n: number): Drawn | undefined {
  const a = lies(line.from)
  const b = lies(line.to)
  if (!a || !b) return undefined
  const shift = n * 26
  const beside = b.x > a.right - 4 || a.x > b.right - 4
  const right = b.x > a.x
  const from = beside
    ? { x: right ? a.right : a.x, y: a.y + 24 + shift }
    : { x: a.x + 60 + shift, y: b.y > a.y ? a.bottom : a.y }
  const to = beside
    ? { x: right ? b.x : b.right, y: b.y + 24 + shift }
    : { x: b.x + 60 + shift, y: b.y > a.y ? b.y : b.bottom }
  const [dx, dy] = beside ? [(to.x - from.x) / 2, 0] : [0, (to.y - from.y) / 2]
  const path = `M${from.x},${from.y} C${from.x + dx},${from.y + dy} ${to.x - dx},${to.y - dy} ${to.x},${to.y}`
  return { line, path, x: (from.x + to.x) / 2, y: (from.y + to.y) / 2, feeds: line.from === props.part }
}

async function draw(): Promise<void> {
  await nextTick()
  const room = overlay.value?.parentElement
  if (!room) return
  size.value = { width: room.scrollWidth, height: 0 } // what is drawn does not make it higher
  await nextTick()
  size.value = { width: room.clientWidth, height: room.scrollHeight }
  drawn.value = [...props.wiring.into(props.part), ...props.wiring.outOf(props.part)].flatMap(
    (line, n) => curve(line, n) ?? [],
  )
}
onMounted(draw)
watch(() => [props.part, props.changes, props.wiring], draw)
useResizeObserver(() => overlay.value?.parentElement, draw)
</script>

<template>
  <svg ref="overlay" class="wiring" :width="size.width" :height="size.height" aria-hidden="true">
    <defs>
      <marker
        id="wire-end"
        viewBox="0 0 8 8"
        refX="7"
        refY="4"
        markerWidth="7"
        markerHeight="7"
        orient="auto"
      >
        <path d="M0,0 L8,4 L0,8 z" class="end" />
      </marker>
    </defs>
    <g v-for="(d, i) in drawn" :key="i">
      <path :d="d.path" class="wire" :class="{ feeds: d.feeds }" marker-end="url(#wire-end)" />
      <foreignObject :x="d.x - 150" :y="d.y - 13" width="300" height="44">
        <div class="tag">
          <span
            >{{ d.line.value }}<template v-if="d.line.by"> → {{ called(d.line.by) }}</template></span
          >
        </div>
      </foreignObject>
    </g>
  </svg>
</template>

<style scoped>
.wiring {
  position: absolute;
  inset: 0 auto auto 0;
  z-index: 6;
  pointer-events: none;
}
.wire {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.5;
}
.feeds {
  stroke-dasharray: 5 3;
}
.end {
  fill: var(--accent);
}
.tag {
  display: flex;
  justify-content: center;
  font-size: 0.78rem;
  line-height: 1.2;
}
.tag span {
  background: var(--panel);
  border: 1px solid var(--accent);
  border-radius: 3px;
  padding: 0.05rem 0.35rem;
  overflow-wrap: anywhere;
}
</style>
