<script setup lang="ts">
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Search } from '@/api/types'
import { useBuild } from '../build'
import { drop, put } from '../document'
import { asks } from '../conditions/unfinished'
import WhereEditor from '../conditions/WhereEditor.vue'
import { useSheet } from './context'
import PathPicker from '../conditions/PathPicker.vue'
import RemoveButton from '@/frame/RemoveButton.vue'

/** The pointer is that of the search, the place where it stands. */
const props = defineProps<{ search: Search; place: string; pointer: string }>()
const build = useBuild()
const sheet = useSheet()
const at = computed(() => props.pointer)
const objects = computed(() => build.contents?.objects ?? [])

function setOrder(i: number, path: string): void {
  const order = [...(props.search.order ?? [])]
  order[i] = { ...order[i], path }
  void sheet.edit(put(at.value + '/order', order))
}

function flip(i: number): void {
  const order = (props.search.order ?? []).map((o, n) => (n === i ? { ...o, desc: !o.desc } : o))
  void sheet.edit(put(at.value + '/order', order))
}

function unorder(i: number): void {
  void sheet.edit(
    put(
      at.value + '/order',
      (props.search.order ?? []).filter((_, n) => n !== i),
    ),
  )
}

function setLimit(text: string): void {
  const n = Number(text)
  if (!text.trim()) {
    if (props.search.limit) void sheet.edit(drop(at.value + '/limit'))
  } else if (Number.isInteger(n) && n > 0) void sheet.edit(put(at.value + '/limit', n))
}
</script>

<template>
  <div class="editor">
    <div class="row">
      Search
      <Select
        :model-value="search.object"
        :options="objects"
        option-label="plural"
        option-value="key"
        filter
        size="small"
        aria-label="What is searched for"
        @update:model-value="
          sheet.edit(put(at + '/object', $event), put(at + '/where', { all: [] }), put(at + '/order', []))
        "
      />
      {{ asks(search.where) ? 'where' : '— all of them' }}
    </div>
    <WhereEditor
      :model-value="search.where"
      :place="place"
      :object="search.object"
      @update:model-value="sheet.edit(put(at + '/where', $event))"
    />
    <div class="row">
      ordered by
      <template v-for="(o, i) in search.order ?? []" :key="o.path">
        <span class="tag">
          {{ build.pathLabel(search.object, o.path) }}
          <button type="button" class="plain link" @click="flip(i)">
            {{ o.desc ? 'falling' : 'rising' }}
          </button>
          <RemoveButton label="Do not order by this" @press="unorder(i)" />
        </span>
      </template>
      <PathPicker
        :model-value="''"
        :object="search.object"
        label="Order by"
        placeholder="field"
        @update:model-value="setOrder(search.order?.length ?? 0, $event)"
      />
      · at most
      <InputText
        :model-value="String(search.limit || '')"
        size="small"
        placeholder="all"
        aria-label="At most"
        class="limit"
        @change="setLimit(($event.target as HTMLInputElement).value)"
      />
      records
    </div>
  </div>
</template>

<style scoped>
.editor {
  display: flex;
  flex-direction: column;
  gap: 0.5rem;
}
.limit {
  width: 4rem;
}
.tag {
  display: inline-flex;
  align-items: center;
  gap: 0.3rem;
  background: var(--tint);
  padding-left: 0.5rem;
  border-radius: 4px;
}
p {
  margin: 0;
}
</style>
