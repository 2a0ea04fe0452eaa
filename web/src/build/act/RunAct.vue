<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { RunSettings } from '@/api/types'
import { useBuild } from '../build'
import { useKnown } from '../conditions/context'
import HandEditor from './HandEditor.vue'
import { handing, takesOf } from './handing'

/** Runs a walkthrough, in a dialog perhaps where it is no step of another, and hands it what it takes. */
const props = defineProps<{ place: string; inSteps?: boolean }>()
const run = defineModel<RunSettings>({ required: true })
const build = useBuild()
const walks = computed(() => build.contents?.documents.filter((d) => d.kind === 'walkthrough') ?? [])
const context = useKnown()
/** What the walkthrough wants to be handed. */
const takes = computed(() => takesOf(build, 'walkthrough', run.value.walkthrough))

function choose(walkthrough: string): void {
  const hand = handing(build, context.names(props.place), takesOf(build, 'walkthrough', walkthrough))
  run.value = { ...run.value, walkthrough, hand }
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
  <HandEditor
    :model-value="run.hand"
    :takes="takes"
    :place="place"
    @update:model-value="run = { ...run, hand: $event }"
  />
</template>
