<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { OpenSettings } from '@/api/types'
import { useBuild } from '../build'
import { useKnown } from '../conditions/context'
import KnownPicker from '../conditions/KnownPicker.vue'
import SentenceSlot from '../sheet/SentenceSlot.vue'
import HandEditor from './HandEditor.vue'
import { handing, takesOf } from './handing'

/** Opens a record, a page with what it takes, in the place of what is there or beside it, or an address on the web. */
const props = defineProps<{ place: string; rows?: string }>()
const open = defineModel<OpenSettings>({ required: true })
const build = useBuild()
const known = useKnown()
const none = ''
const web = ':web'
const pages = computed(() => [
  { key: none, label: 'a record' },
  { key: web, label: 'a web address' },
  ...(build.contents?.documents ?? [])
    .filter((d) => d.kind === 'page')
    .map((d) => ({ key: d.key, label: `the page “${d.label}”` })),
])
const ways = [
  { key: false, label: 'in its place' },
  { key: true, label: 'beside it' },
]

const uses = [
  { key: false, label: 'to read' },
  { key: true, label: 'to change' },
]

const chosen = computed(() => (open.value.link === undefined ? (open.value.page ?? none) : web))

function choose(page: string): void {
  if (page === web) open.value = { link: 'https://' }
  else
    open.value = page
      ? { page, hand: handing(build, known.names(props.place), takesOf(build, 'page', page)) }
      : {}
}
</script>

<template>
  <div class="row">
    Open
    <Select
      :model-value="chosen"
      :options="pages"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="What is opened"
      @update:model-value="choose"
    />
    <SentenceSlot
      v-if="chosen === web"
      :model-value="open.link ?? ''"
      :place="place"
      label="Web address"
      placeholder="https://… with values in {braces}"
      class="web"
      @update:model-value="open = { ...open, link: $event }"
    />
    <template v-else-if="!open.page">
      <KnownPicker
        :model-value="open.record ?? ''"
        :place="place"
        kind="record"
        label="Which record"
        :placeholder="rows ? 'of the row' : 'which'"
        @update:model-value="open = { ...open, record: $event || undefined }"
      />
      <Select
        :model-value="open.edit ?? false"
        :options="uses"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="What for"
        @update:model-value="open = { ...open, edit: $event || undefined }"
      />
    </template>
    <Select
      v-else
      :model-value="open.beside ?? false"
      :options="ways"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="Where it opens"
      @update:model-value="open = { ...open, beside: $event || undefined }"
    />
  </div>
  <HandEditor
    v-if="open.page"
    :model-value="open.hand"
    :takes="takesOf(build, 'page', open.page)"
    :place="place"
    @update:model-value="open = { ...open, hand: $event }"
  />
</template>

<style scoped>
.web {
  flex: 1 1 22rem;
}
</style>
