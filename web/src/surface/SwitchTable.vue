<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import Select from 'primevue/select'
import { computed, useId } from 'vue'
import { useAsked } from '@/api/asked'
import { given, seated } from '@/api/client'
import type { PartView } from '@/api/types'
import type { PartEmits, PartProps } from './parts'
import type { SurfaceSource } from './source'
import { nothing, type Selection } from './selection'
import { keepEdits } from './table/keptedits'
import TablePart from './TablePart.vue'

/** A table that people can switch to other objects, each with views of its own. */
const props = defineProps<PartProps>()
const chosen = defineModel<Selection>({ required: true })
const emit = defineEmits<PartEmits>()

// What is changed in one of the objects is still there when somebody comes back to it.
keepEdits()

const at = props.source.at(props.part.key)
const last = useStorage(
  `plainpath.as.${props.source.base}.${at.page?.page ?? 'screen'}.${props.part.key}`,
  '',
)
const own = computed(() => props.part.table!.object)
/** What is shown: the table's own object where nothing else was chosen. */
const shown = computed({
  get: () => as.value || own.value,
  set: (object) => (last.value = object === own.value ? '' : object),
})
const others = computed(() => props.part.table!.others ?? [])
const as = computed(() => (others.value.some((o) => o.object === last.value) ? last.value : ''))
const options = computed(() => [
  { object: own.value, plural: props.part.label || 'The table itself' },
  ...others.value.filter((o) => o.object !== own.value),
])

const id = useId()
// What is still to be saved of one object goes there, whatever is chosen meanwhile.
const theirs = computed<SurfaceSource>(() => {
  const object = as.value
  return { ...props.source, at: (part) => ({ ...props.source.at(part), as: object }) }
})
const { found: rows, failed } = useAsked(
  () => ['as', id, as.value],
  (signal) =>
    given(
      seated(theirs.value.base).POST('/tables/rows', {
        body: { at: theirs.value.at(props.part.key), look: {} },
        signal,
      }),
    ),
  { when: () => !!as.value, fresh: true },
)
const other = computed<PartView | undefined>(() => {
  if (!rows.value) return undefined
  const { live } = props.part.table!
  const keyword = rows.value.rows.length > 10 ? ['in all texts'] : undefined
  const table = { object: as.value, rows: rows.value, live, keyword, select: 'none' as const, chosen: [] }
  return { ...props.part, table }
})
</script>

<template>
  <div>
    <Select
      v-model="shown"
      :options="options"
      option-label="plural"
      option-value="object"
      size="small"
      class="switch"
      aria-label="What the table shows"
    />
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <TablePart
      v-if="other"
      :key="as"
      :model-value="nothing()"
      :part="{ ...other, label: undefined }"
      :source="theirs"
    />
    <TablePart
      v-else-if="!as"
      v-model="chosen"
      :part="{ ...part, label: undefined }"
      :source="source"
      :problem="problem"
      :ships="ships"
      @go="emit('go')"
      @ship="emit('ship', $event)"
      @looked="emit('looked', $event)"
      @edited="emit('edited', $event)"
      @written="emit('written')"
    />
  </div>
</template>

<style scoped>
.switch {
  float: left;
  margin: -0.1rem 0.8rem 0 0;
  font-weight: 650;
}
</style>
