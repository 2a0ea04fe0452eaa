<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Inside } from '@/api/types'
import { useBuild } from '../build'
import ColumnsEditor from '../sheet/ColumnsEditor.vue'

/** What a row of a table opens to: a list of what refers to it, and so on. */
const props = defineProps<{ object: string }>()
const inside = defineModel<Inside | undefined>({ required: true })
const build = useBuild()

const options = computed(() =>
  build.referrers(props.object).map((r) => ({
    key: r.object.key + '.' + r.field.key,
    label: `${r.object.plural} (by ${r.field.label.toLowerCase()})`,
    ...r,
  })),
)

function open(key: string | null): void {
  const o = options.value.find((x) => x.key === key)
  if (!o) {
    inside.value = undefined
    return
  }
  const plain = o.object.fields.filter(
    (f) => f.key !== o.field.key && !['long_text', 'picture', 'file', 'address'].includes(f.type),
  )
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
    </div>
    <div v-if="inside" class="deeper">
      <ColumnsEditor
        :model-value="inside.table.columns"
        :object="inside.object"
        label="columns"
        @update:model-value="change({ columns: $event })"
      />
      <InsideEditor
        :model-value="inside.table.inside"
        :object="inside.object"
        @update:model-value="change({ inside: $event })"
      />
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
