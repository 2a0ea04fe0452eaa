<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { RunSettings } from '@/api/types'
import { useBuild } from '../build'
import { useKnown } from '../conditions/context'
import KnownPicker from '../conditions/KnownPicker.vue'
import { handing, takesOf } from './handing'

/** Runs a walkthrough, in a dialog perhaps where it is no step of another, and hands it what it takes. */
const props = defineProps<{ place: string; inSteps?: boolean }>()
const run = defineModel<RunSettings>({ required: true })
const build = useBuild()
const walks = computed(() => build.contents?.documents.filter((d) => d.kind === 'walkthrough') ?? [])
const context = useKnown()
/** What the walkthrough wants to be handed. */
const takes = computed(() => takesOf(build, run.value.walkthrough))

function choose(walkthrough: string): void {
  const hand = handing(build, context.names(props.place), takesOf(build, walkthrough))
  run.value = { ...run.value, walkthrough, hand }
}

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
      @update:model-value="choose"
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
