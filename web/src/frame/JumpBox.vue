<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import Dialog from 'primevue/dialog'
import InputText from 'primevue/inputtext'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { useBuild } from '@/build/build'
import { useEffects } from '@/use/effects'
import { useMenu } from '@/use/menu'
import { buildPlaces, matching, type Place, usePlaces, useRecent } from './jump'

/** Goes anywhere by name: with the arrows and Enter, or the mouse. */
const open = defineModel<boolean>({ required: true })
const route = useRoute()
const router = useRouter()
const build = useBuild()
const menu = useMenu()
const { effect } = useEffects(false)
const text = ref('')
const sought = refDebounced(text, 200)
const at = ref(0)
const list = ref<HTMLElement | null>(null)

const builds = computed(() => route.path.startsWith('/build'))
const places = computed(() => (builds.value ? buildPlaces(build.contents) : usePlaces(menu.home)))
const { recent, went } = useRecent(() => (builds.value ? 'build' : 'use'), places)
const { found: records } = useAsked(
  () => ['anywhere', sought.value.trim()],
  (signal) => given(api.GET('/use/anywhere', { params: { query: { text: sought.value } }, signal })),
  { when: () => open.value && !builds.value && sought.value.trim().length > 1, fresh: true },
)
const most = 12
const shown = computed<Place[]>(() => {
  if (!text.value.trim()) return recent.value.length ? recent.value : places.value.slice(0, most)
  const called = (builds.value ? [] : (records.value?.records ?? [])).map((r) => ({
    label: r.label ?? '',
    kind: r.kind,
    to: `/use/record/${r.object}/${r.id}`,
  }))
  return [...matching(places.value, text.value).slice(0, most), ...called]
})

watch(open, (is) => is && ((text.value = ''), (at.value = 0)))
watch(shown, () => (at.value = Math.min(at.value, Math.max(0, shown.value.length - 1))))
watch(text, () => (at.value = 0))

async function step(by: number): Promise<void> {
  if (!shown.value.length) return
  at.value = (at.value + by + shown.value.length) % shown.value.length
  await nextTick()
  list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' })
}

async function go(place: Place | undefined): Promise<void> {
  if (!place) return
  went(place.to?.startsWith('/use/record/') ? { ...place, kind: 'record' } : place)
  open.value = false
  if (place.begins) await effect({ kind: 'run', walkthrough: place.begins })
  else if (place.to) await router.push(place.to)
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    header="Jump to"
    position="top"
    :style="{ width: '34rem' }"
    dismissable-mask
  >
    <InputText
      v-model="text"
      autofocus
      fluid
      role="combobox"
      aria-expanded="true"
      aria-controls="jump-list"
      :aria-activedescendant="shown.length ? `jump-${at}` : undefined"
      aria-label="Jump to"
      :placeholder="builds ? 'a document, a field, …' : 'a page, a walkthrough, a record, …'"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.enter.prevent="go(shown[at])"
    />
    <ul id="jump-list" ref="list" role="listbox" aria-label="Where to">
      <li
        v-for="(p, i) in shown"
        :id="`jump-${i}`"
        :key="`${p.kind} ${p.label} ${p.to}`"
        role="option"
        :aria-selected="i === at"
        @click="go(p)"
        @mousemove="at = i"
      >
        <span>{{ p.label }}</span> <span class="muted">{{ p.kind }}</span>
      </li>
    </ul>
    <p v-if="!shown.length" class="muted" role="status">Nothing is called so.</p>
  </Dialog>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0.6rem 0 0;
  padding: 0;
  max-height: 22rem;
  overflow: auto;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 1rem;
  padding: 0.35rem 0.6rem;
  cursor: pointer;
}
li > :first-child {
  overflow-wrap: anywhere;
}
li[aria-selected='true'] {
  background: var(--tint);
  color: var(--accent);
}
</style>
