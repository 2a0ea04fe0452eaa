<script setup lang="ts">
import Select from 'primevue/select'
import KnownPicker from './conditions/KnownPicker.vue'
import SentenceSlot from './sheet/SentenceSlot.vue'
import type { Ask, Sentence } from './asks'
import { usePartsHere } from './act/parts'

type Settings = Record<string, unknown>

/** Settings that are asked for in one sentence. */
const props = defineProps<{ sentence: Sentence<Settings>; place: string; rows?: string }>()
const settings = defineModel<Settings>({ required: true })
const here = usePartsHere(() => props.place)

const value = (ask: Ask<Settings>) => (settings.value[ask.member] as string | undefined) ?? ''
const empty = (ask: Ask<Settings>) => (typeof ask.empty === 'function' ? ask.empty(!!props.rows) : ask.empty)

function set(ask: Ask<Settings>, to: string): void {
  settings.value = { ...settings.value, [ask.member]: to || (ask.optional ? undefined : '') }
}

function parts(ask: Ask<Settings> & { as: 'part' }) {
  const found = here().filter((p) => p.input || !ask.inputs)
  return ask.all ? [{ key: '', label: ask.all }, ...found] : found
}
</script>

<template>
  <div class="row">
    <template v-for="(piece, i) in sentence" :key="i">
      <span v-if="typeof piece === 'string'" class="muted">{{ piece }}</span>
      <SentenceSlot
        v-else-if="piece.as === 'text'"
        :place="place"
        :long="piece.long"
        class="said"
        :model-value="value(piece)"
        :label="piece.label"
        :placeholder="empty(piece)"
        @update:model-value="set(piece, $event)"
      />
      <KnownPicker
        v-else-if="piece.as === 'known'"
        :model-value="value(piece)"
        :place="place"
        :kind="piece.kind"
        :label="piece.label"
        :placeholder="empty(piece)"
        :class="{ wide: piece.wide }"
        @update:model-value="set(piece, $event)"
      />
      <Select
        v-else-if="piece.as === 'part'"
        :model-value="value(piece)"
        :options="parts(piece)"
        option-label="label"
        option-value="key"
        size="small"
        :placeholder="empty(piece)"
        :aria-label="piece.label"
        @update:model-value="set(piece, $event)"
      />
      <Select
        v-else
        :model-value="value(piece)"
        :options="piece.options"
        size="small"
        :placeholder="empty(piece)"
        :show-clear="piece.optional"
        :aria-label="piece.label"
        @update:model-value="set(piece, $event)"
      />
    </template>
  </div>
</template>

<style scoped>
.wide {
  flex: 1;
}
.said {
  flex: 1 1 16rem;
}
</style>
