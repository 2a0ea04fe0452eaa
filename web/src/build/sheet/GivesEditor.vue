<script setup lang="ts">
import type { Give } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { keyFrom, useBuild } from '../build'
import { useKnown } from '../conditions/context'
import { knownValues } from '../conditions/known'
import KnownPicker from '../conditions/KnownPicker.vue'
import { put } from '../document'
import { useSheet } from './context'
import KeySlot from './KeySlot.vue'
import TextSlot from './TextSlot.vue'

/** What a walkthrough gives back to another one that runs it: values that are known at its end. */
const props = defineProps<{ gives: Give[] }>()
const build = useBuild()
const known = useKnown()
const sheet = useSheet()
const atEnd = '/end'

function set(gives: Give[]): void {
  void sheet.edit(put('/gives', gives))
}

function change(i: number, some: Partial<Give>): void {
  set(props.gives.map((g, n) => (n === i ? { ...g, ...some } : g)))
}

async function remove(i: number): Promise<void> {
  if (await sheet.removable(`/gives/${i}`, `“${props.gives[i].label}”`))
    set(props.gives.filter((_, n) => n !== i))
}

/** Gives back a value under the name that it is known by. */
function add(value: string): void {
  if (!value) return
  const name = knownValues(build, known.names(atEnd), known.samples.value).find((k) => k.path === value)
  const key = keyFrom(
    value.split('.').at(-1) ?? value,
    props.gives.map((g) => g.key),
  )
  set([...props.gives, { key, label: name?.label ?? key, value }])
}
</script>

<template>
  <div class="handed">
    <span class="muted">Gives back, where another one runs it,</span>
    <span v-for="(g, i) in gives" :key="g.key" class="tag">
      <TextSlot
        :model-value="g.label"
        label="Label of what is given back"
        @update:model-value="change(i, { label: $event })"
      />
      <KeySlot :pointer="`/gives/${i}`" :name="g.key" :label="'Key of ' + g.label" />
      <KnownPicker
        :model-value="g.value"
        :place="atEnd"
        :label="'Value of ' + g.label"
        @update:model-value="change(i, { value: $event })"
      />
      <RemoveButton :label="'Do not give back ' + g.label" @press="remove(i)" />
    </span>
    <KnownPicker
      :key="gives.length"
      model-value=""
      :place="atEnd"
      label="Gives back"
      :placeholder="gives.length ? 'and …' : 'nothing; or a value'"
      @update:model-value="add"
    />
  </div>
</template>

<style scoped src="./handed.css"></style>
