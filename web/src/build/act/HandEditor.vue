<script setup lang="ts">
import type { Handing, Take } from '@/api/types'
import { kindOf } from '../conditions/known'
import KnownPicker from '../conditions/KnownPicker.vue'

/** What something that is opened is handed: a known value for each that it takes. */
defineProps<{ takes: Take[]; place: string }>()
const hand = defineModel<Handing[] | undefined>({ required: true })

const handed = (to: string) => hand.value?.find((h) => h.to === to)?.value ?? ''

function give(to: string, value: string): void {
  const others = (hand.value ?? []).filter((h) => h.to !== to)
  const all = value ? [...others, { to, value }] : others
  hand.value = all.length ? all : undefined
}
</script>

<template>
  <div v-for="t in takes" :key="t.key" class="row">
    {{ t.label }} is
    <KnownPicker
      :model-value="handed(t.key)"
      :place="place"
      :label="t.label"
      :kind="t.several ? 'list' : kindOf(t)"
      :object="t.object"
      :placeholder="t.required ? 'required' : 'nothing'"
      @update:model-value="give(t.key, $event)"
    />
  </div>
</template>
