<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed, nextTick, ref } from 'vue'
import type { Condition } from '@/api/types'
import { useBuild } from '../build'
import TextSlot from '../sheet/TextSlot.vue'
import ConditionRow from './ConditionRow.vue'
import RemoveButton from '@/frame/RemoveButton.vue'

/** Conditions joined by all or any, to any depth, also on related records. */
const props = defineProps<{ place: string; object: string; nested?: boolean }>()
const condition = defineModel<Condition>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const build = useBuild()
const list = ref<HTMLElement | null>(null)

const joins = [
  { key: 'all', label: 'all of these hold' },
  { key: 'any', label: 'any of these holds' },
]
const join = computed(() => (condition.value.any ? 'any' : 'all'))
const single = computed(
  () =>
    condition.value.field !== undefined ||
    !!condition.value.related ||
    condition.value.expression !== undefined,
)
const members = computed<Condition[]>(() =>
  single.value ? [condition.value] : (condition.value.any ?? condition.value.all ?? []),
)
const referrers = computed(() =>
  build.referrers(props.object).map((r) => ({
    key: r.object.key + '/' + r.field.key,
    label: `has ${build.one(r.object.key)} (${r.field.label}) …`,
    object: r.object.key,
    field: r.field.key,
  })),
)
const has = [
  { key: false, label: 'has a' },
  { key: true, label: 'has no' },
]

function write(list: Condition[], how = join.value): void {
  condition.value = how === 'any' ? { any: list } : { all: list }
}

/** Adds a condition and puts the caret into it. */
async function add(c: Condition): Promise<void> {
  const at = members.value.length
  write([...members.value, c])
  await nextTick()
  list.value?.querySelectorAll(':scope > [data-condition]')[at]?.querySelector('input')?.focus()
}

function set(i: number, c: Condition): void {
  const list = [...members.value]
  list[i] = c
  write(list)
}

function relate(key: string): void {
  const r = referrers.value.find((x) => x.key === key)
  if (r) write([...members.value, { related: { object: r.object, field: r.field, where: { all: [] } } }])
}
</script>

<template>
  <div ref="list" class="group" :class="{ nested }">
    <div v-if="members.length > 1 || nested" class="row">
      <Select
        :model-value="join"
        :options="joins"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="How the conditions are joined"
        @update:model-value="write(members, $event)"
      />
      <RemoveButton v-if="nested" label="Remove the group" @press="emit('remove')" />
    </div>
    <template v-for="(c, i) in members" :key="i">
      <div v-if="c.related" class="related" data-condition>
        <div class="row">
          <Select
            :model-value="!!c.related.none"
            :options="has"
            option-label="label"
            option-value="key"
            size="small"
            aria-label="Has or has not"
            @update:model-value="set(i, { related: { ...c.related!, none: $event || undefined } })"
          />
          <strong>{{ build.object(c.related.object)?.label.toLowerCase() }}</strong>
          <RemoveButton label="Remove the condition" @press="write(members.filter((_, n) => n !== i))" />
        </div>
        <span class="muted">where</span>
        <ConditionGroup
          :model-value="c.related.where"
          :place="place"
          :object="c.related.object"
          @update:model-value="set(i, { related: { ...c.related!, where: $event } })"
        />
      </div>
      <ConditionGroup
        v-else-if="c.all || c.any"
        data-condition
        :model-value="c"
        :place="place"
        :object="object"
        nested
        @update:model-value="set(i, $event)"
        @remove="write(members.filter((_, n) => n !== i))"
      />
      <div v-else-if="c.expression !== undefined && c.field === undefined" class="row" data-condition>
        <TextSlot
          :model-value="c.expression"
          class="expression"
          label="Condition as an expression"
          placeholder="record.floors > 4"
          @update:model-value="set(i, { expression: $event })"
        />
        <RemoveButton label="Remove the condition" @press="write(members.filter((_, n) => n !== i))" />
      </div>
      <ConditionRow
        v-else
        data-condition
        :model-value="c"
        :place="place"
        :object="object"
        @update:model-value="set(i, $event)"
        @remove="write(members.filter((_, n) => n !== i))"
      />
    </template>
    <div class="row">
      <Button text size="small" label="Condition" @click="add({ field: '', op: 'is' })" />
      <Button
        text
        size="small"
        label="Expression"
        title="A condition written out; it calls the record “record”"
        @click="add({ expression: '' })"
      />
      <Button text size="small" label="Group" @click="write([...members, { any: [] }])" />
      <Select
        v-if="referrers.length"
        :model-value="null"
        :options="referrers"
        option-label="label"
        option-value="key"
        size="small"
        placeholder="related records…"
        aria-label="Add a condition on related records"
        @update:model-value="relate"
      />
    </div>
  </div>
</template>

<style scoped>
.group {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
.expression {
  width: min(30rem, 100%);
  font-family: ui-monospace, monospace;
}
.nested,
.related {
  border-left: 2px solid var(--line);
  padding-left: 0.8rem;
}
.related {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
}
</style>
