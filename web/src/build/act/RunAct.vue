<script setup lang="ts">
import Select from 'primevue/select'
import { computed, onMounted, ref, watch } from 'vue'
import { api, given } from '@/api/client'
import type { RunSettings, Take, Walkthrough } from '@/api/types'
import { useBuild } from '../build'
import { useKnown } from '../conditions/context'
import { kindOf, knownValues, suits, type Known } from '../conditions/known'
import KnownPicker from '../conditions/KnownPicker.vue'

/** Runs a walkthrough, in a dialog perhaps where it is no step of another, and hands it what it takes. */
const props = defineProps<{ place: string; inSteps?: boolean }>()
const run = defineModel<RunSettings>({ required: true })
const build = useBuild()
const walks = computed(() => build.contents?.documents.filter((d) => d.kind === 'walkthrough') ?? [])
const context = useKnown()
/** What the walkthrough wants to be handed. */
const takes = ref<Take[]>([])

async function loadTakes(): Promise<void> {
  takes.value = []
  if (!run.value.walkthrough) return
  const view = await given(
    api.GET('/build/documents/{kind}/{key}', {
      params: { path: { kind: 'walkthrough', key: run.value.walkthrough } },
    }),
  )
  takes.value = (view.body as Walkthrough).takes ?? []
  if (run.value.hand === undefined) handWhatFits()
}

/** A value that is needed is handed over by itself where only one that is known can be meant. */
function handWhatFits(): void {
  const known = knownValues(build, context.names(props.place), {})
  const hand = takes.value.flatMap((t) => {
    const kind = kindOf(t)
    const fitting = known.filter(
      (k) => suits(k, kind, t.object) && !k.path.includes('(') && (kind !== 'record' || k.kind === 'record'),
    )
    const nearest = fitting.filter((k) => depth(k) === Math.min(...fitting.map(depth)))
    return t.required && nearest.length === 1 ? [{ to: t.key, value: nearest[0].path }] : []
  })
  if (hand.length) run.value = { ...run.value, hand }
}
const depth = (k: Known) => k.path.split('.').length
onMounted(loadTakes)
watch(() => run.value.walkthrough, loadTakes)

const handed = (to: string) => run.value.hand?.find((h) => h.to === to)?.value ?? ''

function hand(to: string, value: string): void {
  const others = (run.value.hand ?? []).filter((h) => h.to !== to)
  run.value = { ...run.value, hand: value ? [...others, { to, value }] : others }
}
</script>

<template>
  <div class="row">
    <Select
      :model-value="run.walkthrough"
      :options="walks"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="which"
      aria-label="Which walkthrough"
      @update:model-value="run = { ...run, walkthrough: $event, hand: undefined }"
    />
    <label v-if="!inSteps" class="row"
      ><input
        type="checkbox"
        :checked="run.dialog ?? false"
        @change="run = { ...run, dialog: ($event.target as HTMLInputElement).checked || undefined }"
      />
      in a dialog</label
    >
  </div>
  <div v-for="t in takes" :key="t.key" class="row">
    {{ t.label }} is
    <KnownPicker
      :model-value="handed(t.key)"
      :place="place"
      :label="t.label"
      :placeholder="t.required ? 'required' : 'nothing'"
      @update:model-value="hand(t.key, $event)"
    />
  </div>
</template>
