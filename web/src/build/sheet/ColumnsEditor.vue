<script setup lang="ts">
import FloatPanel from '@/frame/FloatPanel.vue'
import { ref } from 'vue'
import type { TableColumn } from '@/api/types'
import { useBuild } from '../build'
import PathPicker from '../conditions/PathPicker.vue'
import OrderedTags from '../OrderedTags.vue'
import TextSlot from './TextSlot.vue'

/** The columns of a table or the fields of details, in their order. */
const props = defineProps<{ object: string; label: string }>()
const columns = defineModel<TableColumn[]>({ required: true })
const build = useBuild()

const panel = ref<InstanceType<typeof FloatPanel> | null>(null)
const editing = ref(-1)

function edit(i: number, event: Event): void {
  editing.value = i
  panel.value?.show(event)
}

function change(some: Partial<TableColumn>): void {
  columns.value = columns.value.map((c, i) => (i === editing.value ? { ...c, ...some } : c))
}

function name(c: TableColumn): string {
  return c.label || build.pathLabel(props.object, c.path)
}
</script>

<template>
  <div class="row">
    {{ label }}
    <OrderedTags
      v-model="columns"
      :key-of="(c) => c.path"
      :name="name"
      presses="Heading of"
      removes="Remove"
      @press="edit"
    />
    <PathPicker
      :model-value="''"
      :object="object"
      :label="'Add to: ' + label"
      placeholder="another field"
      :only="(o) => !columns.some((c) => c.path === o.path)"
      @update:model-value="columns = [...columns, { path: $event }]"
    />
    <FloatPanel ref="panel" aria-label="Heading of the column">
      <div v-if="columns[editing]" class="heading">
        <label for="column-label">Heading</label>
        <TextSlot
          id="column-label"
          :model-value="columns[editing].label ?? ''"
          label="Heading"
          :placeholder="build.pathLabel(object, columns[editing].path)"
          @update:model-value="change({ label: $event || undefined })"
        />
        <template v-if="label === 'columns'">
          <label for="column-above">Common heading over it</label>
          <TextSlot
            id="column-above"
            :model-value="columns[editing].above ?? ''"
            label="Common heading"
            placeholder="none"
            @update:model-value="change({ above: $event || undefined })"
          />
        </template>
      </div>
    </FloatPanel>
  </div>
</template>

<style scoped>
.heading {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
}
</style>
