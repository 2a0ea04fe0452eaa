<script setup lang="ts">
import { computed } from 'vue'
import type { Step } from '@/api/types'
import { typeAt } from '../act/typeat'
import { keyFrom, useBuild } from '../build'
import { useKnown } from '../conditions/context'
import KnownPicker from '../conditions/KnownPicker.vue'
import { put } from '../document'
import { useSheet } from './context'

/** For each of which list steps are done, and what each is known as meanwhile. */
const props = defineProps<{ step: Step; pointer: string }>()
const build = useBuild()
const known = useKnown()
const sheet = useSheet()
const repeat = computed(() => props.step.repeat!)

function setList(list: string): void {
  const object = typeAt(build, known.names(props.step.key), list)?.object
  const names = known.names(props.step.key).map((n) => n.key)
  const item =
    repeat.value.item ||
    keyFrom(
      'each ' + (object ?? 'row'),
      names.filter((n) => n !== repeat.value.item),
    )
  void sheet.edit(put(props.pointer + '/repeat', { ...repeat.value, for_each: list, item }))
}
</script>

<template>
  <div class="row">
    For each of
    <KnownPicker
      :model-value="repeat.for_each"
      :place="step.key"
      kind="lists"
      label="For each of"
      placeholder="a list"
      @update:model-value="setList"
    />
    <span v-if="repeat.item" class="muted"
      >known inside as “{{ repeat.item }}”, the steps below are done</span
    >
  </div>
</template>
