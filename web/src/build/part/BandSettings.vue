<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Band, KnownSearch } from '@/api/types'
import { drop, moved, put } from '../document'
import MoveButtons from '../MoveButtons.vue'
import { useSheet } from '../sheet/context'
import FindingNote from '../sheet/FindingNote.vue'
import OfferedWhen from '../sheet/OfferedWhen.vue'
import TextSlot from '../sheet/TextSlot.vue'
import { standings, widths } from './bands'
import { useCopied } from './clipboard'

/** What is said of a band: its title, how it stands, when it is there, its columns, its place. */
const props = defineProps<{
  bands: Band[]
  index: number
  owner: string
  place: string
  searches: KnownSearch[]
}>()
const sheet = useSheet()
const band = computed(() => props.bands[props.index])
const pointer = computed(() => `${props.owner}/bands/${props.index}`)
const findings = computed(() =>
  sheet.findings.value.filter((f) =>
    new RegExp(`^${pointer.value}/(title|stands|offered_when|columns(/\\d+/(title|width))?)$`).test(
      f.pointer,
    ),
  ),
)

function set(member: string, value: unknown): void {
  const at = `${pointer.value}/${member}`
  void sheet.edit(value ? put(at, value) : drop(at))
}

const { copyBand } = useCopied()
const copy = () => copyBand(band.value.title || `band ${props.index + 1}`, band.value, props.searches)

function move(by: number): void {
  void sheet.edit(moved(props.owner + '/bands', props.index, props.index + by))
}
</script>

<template>
  <div v-if="band" class="settings">
    <div class="row">
      <TextSlot
        :model-value="band.title ?? ''"
        label="Title of the band"
        placeholder="title"
        @update:model-value="set('title', $event)"
      />
      <Select
        :model-value="band.stands ?? ''"
        :options="standings"
        option-label="label"
        option-value="value"
        size="small"
        aria-label="How the band stands"
        @update:model-value="set('stands', $event)"
      />
      <MoveButtons what="the band" :first="index === 0" :last="index === bands.length - 1" @move="move" />
    </div>
    <div
      v-for="(column, i) in band.columns.length > 1 || band.stands === 'tabs' ? band.columns : []"
      :key="i"
      class="row"
    >
      <span class="muted">{{ band.stands === 'tabs' ? 'Tab' : 'Column' }} {{ i + 1 }}</span>
      <TextSlot
        v-if="band.stands === 'tabs'"
        :model-value="column.title ?? ''"
        :label="`Name of tab ${i + 1}`"
        :placeholder="column.parts[0]?.label || 'name'"
        @update:model-value="set(`columns/${i}/title`, $event)"
      />
      <Select
        v-else
        :model-value="column.width ?? 1"
        :options="widths"
        option-label="label"
        option-value="value"
        size="small"
        :aria-label="`Width of column ${i + 1}`"
        @update:model-value="set(`columns/${i}/width`, $event === 1 ? undefined : $event)"
      />
    </div>
    <Button text size="small" severity="secondary" class="more" label="Copy the band" @click="copy" />
    <Button
      v-if="band.columns.length < (band.stands === 'tabs' ? 12 : 4)"
      text
      size="small"
      class="more"
      :label="band.stands === 'tabs' ? '+ a tab' : '+ a column'"
      @click="sheet.edit(put(pointer + '/columns/-', { parts: [] }))"
    />
    <OfferedWhen
      :place="place"
      :model-value="band.offered_when"
      @update:model-value="set('offered_when', $event)"
    />
    <FindingNote v-for="f in findings" :key="f.pointer + f.text" :finding="f" />
  </div>
</template>

<style scoped>
.more {
  align-self: flex-start;
}
.settings {
  display: flex;
  flex-direction: column;
  gap: 0.35rem;
  min-width: 22rem;
}
</style>
