<script setup lang="ts">
import { IconArrowLeft, IconArrowRight } from '@tabler/icons-vue'
import type { TableColumn } from '@/api/types'
import { useBuild } from '../build'
import PathPicker from '../conditions/PathPicker.vue'
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
      {{ name(c) }}
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
.plain {
  color: var(--muted);
  line-height: 0;
}
</style>
