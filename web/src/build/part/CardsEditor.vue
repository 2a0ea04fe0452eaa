<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { CardsDef, CardSource, ObjectDef, Part } from '@/api/types'
import { fieldTypes, resultOf } from '@/fields/fields'
import { useBuild } from '../build'
import { useKnown } from '../conditions/context'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useObjectOf } from '../conditions/known'
import { keyFrom } from '../build'
import { put } from '../document'
import { useSheet } from '../sheet/context'
import TextSlot from '../sheet/TextSlot.vue'
import CardSourceEditor from './CardSourceEditor.vue'
import type { PartEditorProps } from './editor'

/** The lists whose records stand on cards, and how each looks. */
const props = defineProps<PartEditorProps>()
const emit = defineEmits<{ change: [some: Partial<Part>] }>()
const build = useBuild()
const known = useKnown()
const sheet = useSheet()
const objectOf = useObjectOf(() => props.step)
const cards = computed(() => props.part.cards!)
const ways = [
  { key: 'cards', label: 'on cards' },
  { key: 'list', label: 'in a list' },
]
const orders = [
  { key: false, label: 'earliest or least first' },
  { key: true, label: 'latest or greatest first' },
]

function change(some: Partial<CardsDef>): void {
  emit('change', { cards: { ...cards.value, ...some } })
}

function changeSource(i: number, next: CardSource): void {
  change({ sources: cards.value.sources.map((s, n) => (n === i ? next : s)) })
}

/** A list begins with a date or a number that it has, and shows what its records are called. */
function fresh(object: ObjectDef, source: string): CardSource {
  const typed = (family: string) =>
    object.fields.find((f) => fieldTypes[resultOf(f)].family === family && f.type !== 'money')
  const by = typed('time') ?? typed('number')
  const key = keyFrom(
    object.plural,
    cards.value.sources.map((s) => s.key),
  )
  const face = { heading: object.label_field }
  return { key, label: object.plural, source, by: by?.key ?? '', faces: [face] }
}

function add(source: string): void {
  const object = build.object(objectOf(source))
  if (object) change({ sources: [...cards.value.sources, fresh(object, source)] })
}

/** All records of an object come with the search that finds them. */
function addFound(key: string): void {
  const object = build.object(key)!
  const taken = known.names('').map((n) => n.key)
  const found = keyFrom(object.plural + '_found', taken)
  const search = { object: key, where: { all: [] } }
  void sheet.edit(
    put('/searches/-', { key: found, label: object.plural + ' found', search }),
    put(`${props.pointer}/cards/sources/-`, fresh(object, found)),
  )
}
</script>

<template>
  <div class="row">
    shown
    <Select
      :model-value="cards.shown || 'cards'"
      :options="ways"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="How they are shown"
      @update:model-value="change({ shown: $event })"
    />
    <Select
      :model-value="cards.desc ?? false"
      :options="orders"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="In which order"
      @update:model-value="change({ desc: $event || undefined })"
    />
  </div>
  <CardSourceEditor
    v-for="(s, i) in cards.sources"
    :key="s.key"
    :model-value="s"
    :pointer="`${pointer}/cards/sources/${i}`"
    :step="step"
    @update:model-value="changeSource(i, $event)"
    @remove="change({ sources: cards.sources.filter((_, n) => n !== i) })"
  />
  <div class="row">
    <KnownPicker
      :key="cards.sources.length"
      model-value=""
      :place="step"
      kind="list"
      label="Another list of cards"
      placeholder="add a list …"
      @update:model-value="add"
    />
    <Select
      v-if="page"
      :model-value="''"
      :options="build.own"
      option-label="plural"
      option-value="key"
      filter
      size="small"
      placeholder="or all records of …"
      aria-label="Cards of all records of"
      @update:model-value="addFound"
    />
  </div>
  <div class="row muted">
    when there is none
    <TextSlot
      :model-value="cards.nothing ?? ''"
      label="What is said when there is none"
      placeholder="There is nothing in this list."
      @update:model-value="change({ nothing: $event || undefined })"
    />
  </div>
</template>
