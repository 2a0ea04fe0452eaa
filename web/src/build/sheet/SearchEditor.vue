<script setup lang="ts">
import { IconX } from '@tabler/icons-vue'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import { computed, ref, watch } from 'vue'
import type { Condition, Search, Step } from '@/api/types'
import { useBuild } from '../build'
import { drop, put } from '../document'
import ConditionGroup from './ConditionGroup.vue'
import { useSheet } from './context'
import PathPicker from './PathPicker.vue'

const props = defineProps<{ step: Step; pointer: string }>()
const build = useBuild()
const sheet = useSheet()
const at = computed(() => props.pointer + '/search')
const search = computed<Search>(() => props.step.search!)
const objects = computed(() => build.contents?.objects ?? [])

// A condition being made is not written until it says something.
const where = ref<Condition>({ all: [] })
watch(
  () => search.value.where,
  (w) => (where.value = w),
  { immediate: true },
)

const asks = computed(
  () => !!(where.value.field || where.value.related || (where.value.all ?? where.value.any)?.length),
)

function unfinished(c: Condition): boolean {
  if (c.related) return unfinished(c.related.where)
  if (c.all ?? c.any) return (c.all ?? c.any)!.some(unfinished)
  if (c.expression) return false
  if (!c.field && c.field !== undefined) return true
  if (!c.field || c.op === 'is_empty' || c.op === 'is_not_empty') return false
  const given = (o?: { expression?: string; literal?: unknown }) =>
    !!o && (!!o.expression || (o.literal !== undefined && o.literal !== null && o.literal !== ''))
  if (c.op === 'one_of') return !(c.values?.length && c.values.every(given)) && !given(c.value)
  return !given(c.value) || (c.op === 'between' && !given(c.to))
}

function setWhere(next: Condition): void {
  where.value = next
  if (!unfinished(next)) void sheet.edit(put(at.value + '/where', next))
}

function setOrder(i: number, path: string): void {
  const order = [...(search.value.order ?? [])]
  order[i] = { ...order[i], path }
  void sheet.edit(put(at.value + '/order', order))
}

function flip(i: number): void {
  const order = (search.value.order ?? []).map((o, n) => (n === i ? { ...o, desc: !o.desc } : o))
  void sheet.edit(put(at.value + '/order', order))
}

function unorder(i: number): void {
  void sheet.edit(
    put(
      at.value + '/order',
      (search.value.order ?? []).filter((_, n) => n !== i),
    ),
  )
}

function setLimit(text: string): void {
  const n = Number(text)
  if (!text.trim()) {
    if (search.value.limit) void sheet.edit(drop(at.value + '/limit'))
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
      {{ asks ? 'where' : '— all of them' }}
    </div>
    <ConditionGroup
      :model-value="where"
      :step="step.key"
      :object="search.object"
      @update:model-value="setWhere"
    />
    <p v-if="unfinished(where)" class="muted">
      A condition is not finished; the last finished ones stand until it is.
    </p>
    <div class="row">
      ordered by
      <template v-for="(o, i) in search.order ?? []" :key="o.path">
        <span class="tag">
          {{ build.pathLabel(search.object, o.path) }}
          <button type="button" class="plain link" @click="flip(i)">
            {{ o.desc ? 'falling' : 'rising' }}
          </button>
          <Button text size="small" severity="secondary" aria-label="Do not order by this" @click="unorder(i)"
            ><IconX :size="13"
          /></Button>
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
