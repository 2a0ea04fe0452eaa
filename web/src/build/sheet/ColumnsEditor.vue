<script setup lang="ts">
import { IconArrowLeft, IconArrowRight } from '@tabler/icons-vue'
import FloatPanel from '@/frame/FloatPanel.vue'
import { ref } from 'vue'
import type { TableColumn } from '@/api/types'
import { useBuild } from '../build'
import PathPicker from '../conditions/PathPicker.vue'
import TextSlot from './TextSlot.vue'
import RemoveButton from '@/frame/RemoveButton.vue'

/** The columns of a table or the fields of details, in their order. */
const props = defineProps<{ object: string; label: string }>()
const columns = defineModel<TableColumn[]>({ required: true })
const build = useBuild()

function move(i: number, by: number): void {
  const list = [...columns.value]
  const [one] = list.splice(i, 1)
  list.splice(i + by, 0, one)
  columns.value = list
}

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
    <span v-for="(c, i) in columns" :key="c.path" class="tag">
      <button
        v-if="i > 0"
        type="button"
        class="plain"
        :aria-label="'Move left: ' + name(c)"
        @click="move(i, -1)"
      >
        <IconArrowLeft :size="13" />
      </button>
      <button type="button" class="plain name" :aria-label="'Heading of ' + name(c)" @click="edit(i, $event)">
        {{ name(c) }}
      </button>
      <button
        v-if="i < columns.length - 1"
        type="button"
        class="plain"
        :aria-label="'Move right: ' + name(c)"
        @click="move(i, 1)"
      >
        <IconArrowRight :size="13" />
      </button>
      <RemoveButton :label="'Remove ' + name(c)" @press="columns = columns.filter((_, n) => n !== i)" />
    </span>
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
.tag {
  display: inline-flex;
  align-items: center;
  gap: 0.25rem;
  background: var(--tint);
  padding-left: 0.5rem;
  border-radius: 4px;
}
.heading {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
}
.plain.name {
  color: inherit;
  line-height: inherit;
}
.plain {
  color: var(--muted);
  line-height: 0;
}
</style>
