<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Inside } from '@/api/types'
import { isShort } from '@/fields/fields'
import { useBuild } from '../build'
import { selections } from '../words'
import { rowPlace } from '../conditions/context'
import ColumnsEditor from '../sheet/ColumnsEditor.vue'
import TextSlot from '../sheet/TextSlot.vue'
import ButtonsEditor from './ButtonsEditor.vue'
import BarsEditor from '../part/BarsEditor.vue'

/** What a row of a table opens to: what refers to it, in a table, on cards or as a chart, and so on. */
const props = defineProps<{ object: string; pointer: string; step?: string }>()
const inside = defineModel<Inside | undefined>({ required: true })
const build = useBuild()

const options = computed(() =>
  build.referrers(props.object).map((r) => ({
    key: r.object.key + '.' + r.field.key,
    label: `${r.object.plural} (by ${r.field.label.toLowerCase()})`,
    ...r,
  })),
)
const kinds = [
  { key: 'table', label: 'in a table' },
  { key: 'cards', label: 'on cards' },
  { key: 'chart', label: 'as a chart' },
]

function open(key: string | null): void {
  const o = options.value.find((x) => x.key === key)
  if (!o) {
    inside.value = undefined
    return
  }
  const plain = o.object.fields.filter((f) => f.key !== o.field.key && isShort(f.type))
  const first = o.object.label_field
  const columns = [first, ...plain.map((f) => f.key).filter((k) => k !== first)].slice(0, 5)
  inside.value = {
    label: o.object.plural,
    object: o.object.key,
    field: o.field.key,
    table: { source: '', select: 'none', columns: columns.map((path) => ({ path })) },
  }
}

function change(some: Partial<Inside['table']>): void {
  inside.value = { ...inside.value!, table: { ...inside.value!.table, ...some } }
}

/** A chart begins with how many there are by the first choice or reference there is. */
function show(as: Inside['shows']): void {
  const now = inside.value!
  const fields = build.object(now.object)?.fields ?? []
  const by =
    fields.find((f) => f.type === 'choice') ?? fields.find((f) => f.type === 'reference') ?? fields[0]
  inside.value = {
    ...now,
    shows: as === 'table' ? undefined : as,
    chart: as === 'chart' ? (now.chart ?? { by: { path: by.key } }) : now.chart,
  }
}
</script>

<template>
  <div class="inside">
    <div class="row">
      a row opens to
      <Select
        :model-value="inside ? inside.object + '.' + inside.field : null"
        :options="options"
        option-label="label"
        option-value="key"
        size="small"
        show-clear
        placeholder="nothing"
        aria-label="What a row opens to"
        @update:model-value="open"
      />
      <template v-if="inside">
        <Select
          :model-value="inside.shows || 'table'"
          :options="kinds"
          option-label="label"
          option-value="key"
          size="small"
          aria-label="What they are shown as"
          @update:model-value="show"
        />
        called
        <TextSlot
          :model-value="inside.label"
          label="Heading of what a row opens to"
          @update:model-value="inside = { ...inside!, label: $event }"
        />
      </template>
    </div>
    <div v-if="inside" class="deeper">
      <BarsEditor
        v-if="inside.shows === 'chart' && inside.chart"
        :model-value="inside.chart"
        :object="inside.object"
        @update:model-value="inside = { ...inside!, chart: $event }"
      />
      <ColumnsEditor
        v-else
        :model-value="inside.table.columns"
        :object="inside.object"
        :label="inside.shows === 'cards' ? 'on a card' : 'columns'"
        @update:model-value="change({ columns: $event })"
      />
      <ButtonsEditor
        v-if="inside.shows !== 'chart'"
        :model-value="inside.table.buttons ?? []"
        :pointer="pointer + '/table/buttons'"
        :place="rowPlace(inside.object, step)"
        :object="inside.object"
        @update:model-value="change({ buttons: $event.length ? $event : undefined })"
      />
      <template v-if="!inside.shows || inside.shows === 'table'">
        <div class="row">
          <Select
            :model-value="inside.table.select || 'none'"
            :options="selections"
            option-label="label"
            option-value="key"
            size="small"
            aria-label="How many of the rows inside are chosen"
            @update:model-value="change({ select: $event })"
          />
          <label class="row"
            ><Checkbox
              binary
              :model-value="inside.table.edit ?? false"
              @update:model-value="change({ edit: $event || undefined })"
            />
            cells can be changed</label
          >
        </div>
        <InsideEditor
          :model-value="inside.table.inside"
          :object="inside.object"
          :pointer="pointer + '/table/inside'"
          :step="step"
          @update:model-value="change({ inside: $event })"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.inside {
  margin-top: 0.4rem;
}
.deeper {
  border-left: 2px solid var(--line);
  padding-left: 0.7rem;
  margin-top: 0.3rem;
}
</style>
