<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Gather, GatherColumn, GatherFrom, Operand } from '@/api/types'
import { offered, typesWhere, type FieldType } from '@/fields/fields'
import RemoveButton from '@/frame/RemoveButton.vue'
import { keyFrom, useBuild } from '../build'
import { useKnown } from '../conditions/context'
import KnownPicker from '../conditions/KnownPicker.vue'
import OperandSlot from '../conditions/OperandSlot.vue'
import NewValue from '../part/NewValue.vue'
import TextSlot from '../sheet/TextSlot.vue'
import { candidates, columnOf, withValue } from './gathering'
import { typeAt } from './typeat'

/** Puts rows of several lists together to one: what each row holds, and of what it is made. */
const props = defineProps<{ place: string }>()
const gather = defineModel<Gather>({ required: true })
const build = useBuild()
const known = useKnown()
const types = offered(typesWhere((kind, type) => kind.handed && type !== 'reference'))

const sources = computed(() =>
  gather.value.from.map((f) => ({
    from: f,
    offers: candidates(build, f.item, typeAt(build, known.names(props.place), f.list)),
  })),
)
/** Values that no column holds yet, each once however many lists have it. */
const offers = computed(() => {
  const all = sources.value.flatMap((s) => s.offers)
  return all.filter(
    (c, i) =>
      !gather.value.columns.some((k) => k.label === c.label) &&
      all.findIndex((o) => o.label === c.label && o.type === c.type) === i,
  )
})

/** What is at hand of the other lists, which is not known to one. */
const others = (i: number) => gather.value.from.flatMap((f, n) => (n === i ? [] : [f.item]))

function from(i: number, some: Partial<GatherFrom>): void {
  gather.value = { ...gather.value, from: gather.value.from.map((f, n) => (n === i ? { ...f, ...some } : f)) }
}

/** The columns there are hold what is called the same in a list that is added. */
function addList(list: string): void {
  if (!list) return
  const is = typeAt(build, known.names(props.place), list)
  const item = keyFrom(
    'each ' + (is?.object ?? 'row'),
    gather.value.from.map((f) => f.item),
  )
  let made: GatherFrom = { list, item, values: [] }
  for (const c of candidates(build, item, is)) {
    const column = gather.value.columns.find((k) => k.label === c.label && k.type === c.type)
    if (column) made = withValue(made, column.key, c.path)
  }
  gather.value = { ...gather.value, from: [...gather.value.from, made] }
}

function addColumn(
  column: GatherColumn,
  holds: (offers: (typeof sources.value)[number]['offers']) => string,
): void {
  gather.value = {
    columns: [...gather.value.columns, column],
    from: sources.value.map((s) => withValue(s.from, column.key, holds(s.offers) || undefined)),
  }
}

const free = (words: string) =>
  keyFrom(
    words,
    gather.value.columns.map((c) => c.key),
  )

function take(path: string): void {
  const c = offers.value.find((o) => o.path === path)
  if (!c) return
  addColumn(
    columnOf(c, free(c.label)),
    (of) => of.find((o) => o.label === c.label && o.type === c.type)?.path ?? '',
  )
}

const make = (words: string, type: FieldType) => addColumn({ key: free(words), label: words, type }, () => '')

function column(i: number, some: Partial<GatherColumn>): void {
  gather.value = {
    ...gather.value,
    columns: gather.value.columns.map((c, n) => (n === i ? { ...c, ...some } : c)),
  }
}

function dropColumn(key: string): void {
  gather.value = {
    columns: gather.value.columns.filter((c) => c.key !== key),
    from: gather.value.from.map((f) => withValue(f, key, undefined)),
  }
}

function set(i: number, key: string, value: Operand | undefined): void {
  const others = gather.value.from[i].values.filter((v) => v.column !== key)
  from(i, { values: value ? [...others, { column: key, value }] : others })
}
</script>

<template>
  <div class="row">
    <span class="muted">Each row has</span>
    <span v-for="(c, i) in gather.columns" :key="c.key" class="tag row">
      <TextSlot
        :model-value="c.label"
        :label="'Label of ' + c.label"
        @update:model-value="column(i, { label: $event })"
      />
      <RemoveButton :label="'No ' + c.label" @press="dropColumn(c.key)" />
    </span>
    <Select
      v-if="offers.length"
      :model-value="null"
      :options="offers"
      option-label="label"
      option-value="path"
      filter
      size="small"
      placeholder="a value of the lists…"
      aria-label="Take a value of the lists into each row"
      @update:model-value="take"
    />
    <NewValue
      :types="types"
      first="text"
      label="A value of your own in each row"
      placeholder="or one of your own"
      button="Add it"
      @add="make"
    />
  </div>
  <div v-for="(s, i) in sources" :key="i" class="list">
    <div class="row">
      for each of
      <KnownPicker
        :model-value="s.from.list"
        :place="place"
        kind="lists"
        :label="'List ' + (i + 1)"
        placeholder="a list"
        @update:model-value="from(i, { list: $event })"
      />
      <span class="muted">known inside as “{{ s.from.item }}”, only when</span>
      <KnownPicker
        :model-value="s.from.only_when ?? ''"
        :place="place"
        kind="yesno"
        :label="'Only when, of list ' + (i + 1)"
        :without="others(i)"
        placeholder="always"
        @update:model-value="from(i, { only_when: $event || undefined })"
      />
      <RemoveButton
        :label="'Leave list ' + (i + 1) + ' out'"
        @press="gather = { ...gather, from: gather.from.filter((_, n) => n !== i) }"
      />
    </div>
    <div v-for="c in gather.columns" :key="c.key" class="row value">
      <span class="what">{{ c.label }}</span> is
      <OperandSlot
        :model-value="s.from.values.find((v) => v.column === c.key)?.value"
        :place="place"
        :field="c"
        :label="`${c.label} of list ${i + 1}`"
        :without="others(i)"
        @update:model-value="set(i, c.key, $event)"
      />
    </div>
  </div>
  <div class="row">
    {{ gather.from.length ? 'and for each of' : 'for each of' }}
    <KnownPicker
      :key="gather.from.length"
      model-value=""
      :place="place"
      kind="lists"
      label="Put the rows of a list in"
      placeholder="a list"
      @update:model-value="addList"
    />
  </div>
</template>

<style scoped>
.list {
  border-left: 2px solid var(--line);
  padding-left: 0.8rem;
}
.what {
  min-width: 8rem;
  font-weight: 600;
}
.tag {
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 0 0.3rem;
}
</style>
