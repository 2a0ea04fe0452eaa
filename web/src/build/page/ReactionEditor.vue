<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { EventKind, Page, Reaction } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useBuild } from '../build'
import { rowPlace, useKnown } from '../conditions/context'
import { knownValues } from '../conditions/known'
import { useSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import { events } from './events'
import DoEditor from './DoEditor.vue'

/** When something happens on the page, what is done then. */
const props = defineProps<{ page: Page; pointer: string }>()
const reaction = defineModel<Reaction>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const build = useBuild()
const here = useKnown()
const sheet = useSheet()

const options = Object.entries(events).map(([key, e]) => ({ key, label: e.words }))
const event = computed(() => events[reaction.value.when.event])
const parts = computed(() =>
  props.page.bands
    .flatMap((b) => b.columns.flatMap((c) => c.parts))
    .filter((p) => (event.value.buttons ? p.button : p.table || (p.input && event.value.inputs)))
    .map((p) => ({ key: p.key, label: p.label || p.key })),
)
/** The object of the row that is pressed. */
const object = computed(() => {
  if (reaction.value.when.event !== 'row_pressed') return ''
  const known = knownValues(build, here.names(''), {})
  return known.find((k) => k.path === `${reaction.value.when.part}.matching`)?.object ?? ''
})
const place = computed(() => (object.value ? rowPlace(object.value) : ''))
const findings = computed(() =>
  sheet.findings.value.filter(
    (f) => f.pointer === props.pointer || f.pointer.startsWith(props.pointer + '/'),
  ),
)

function setEvent(next: EventKind): void {
  const e = events[next]
  reaction.value = {
    ...reaction.value,
    when: {
      event: next,
      part: e.part ? reaction.value.when.part : undefined,
      minutes: next === 'every' ? 5 : undefined,
    },
  }
}

function change(some: Partial<Reaction>): void {
  reaction.value = { ...reaction.value, ...some }
}
</script>

<template>
  <div class="reaction">
    <div class="row">
      When
      <Select
        :model-value="reaction.when.event"
        :options="options"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="What happens"
        @update:model-value="setEvent"
      />
      <Select
        v-if="event.part"
        :model-value="reaction.when.part"
        :options="parts"
        option-label="label"
        option-value="key"
        size="small"
        placeholder="which"
        aria-label="To which part it happens"
        @update:model-value="change({ when: { ...reaction.when, part: $event } })"
      />
      <template v-if="reaction.when.event === 'every'">
        <InputNumber
          :model-value="reaction.when.minutes"
          :min="1"
          :max="1440"
          size="small"
          class="minutes"
          aria-label="How many minutes"
          @update:model-value="change({ when: { ...reaction.when, minutes: $event ?? 5 } })"
        />
        minutes
      </template>
      <RemoveButton label="Remove the reaction" @press="emit('remove')" />
    </div>
    <DoEditor
      by-itself
      :model-value="reaction.do"
      :pointer="pointer + '/do'"
      :place="place"
      :object="object"
      @update:model-value="change({ do: $event })"
    />
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
  </div>
</template>

<style scoped>
.reaction {
  border-left: 2px solid var(--line);
  padding-left: 0.7rem;
  display: grid;
  gap: 0.4rem;
}
.minutes :deep(input) {
  width: 4rem;
}
</style>
