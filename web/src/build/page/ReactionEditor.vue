<script setup lang="ts">
import InputNumber from 'primevue/inputnumber'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Band, EventKind, Reaction } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { rowPlace } from '../conditions/context'
import { useObjectOf } from '../conditions/known'
import { useSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import { events } from './events'
import DoEditor from './DoEditor.vue'

/** When something happens on a page or a screen, what is done then. */
const props = defineProps<{ bands: Band[]; pointer: string; place: string }>()
const reaction = defineModel<Reaction>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const objectOf = useObjectOf(() => props.place)
const sheet = useSheet()

const options = Object.entries(events).map(([key, e]) => ({ key, label: e.words }))
const event = computed(() => events[reaction.value.when.event])
const parts = computed(() =>
  props.bands
    .flatMap((b) => b.columns.flatMap((c) => c.parts))
    .filter((p) => event.value.parts?.includes(p.kind))
    .map((p) => ({ key: p.key, label: p.label || p.key })),
)
/** The object of the row that is pressed. */
const object = computed(() => {
  const { event, part } = reaction.value.when
  if (event !== 'row_pressed') return ''
  const table = props.bands
    .flatMap((b) => b.columns.flatMap((c) => c.parts))
    .find((p) => p.key === part)?.table
  return objectOf(table?.source) ?? ''
})
const inner = computed(() => (object.value ? rowPlace(object.value, props.place) : props.place))
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
      part: e.parts ? reaction.value.when.part : undefined,
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
        v-if="event.parts"
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
      :place="inner"
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
