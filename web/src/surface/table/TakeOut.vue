<script setup lang="ts">
import Button from 'primevue/button'
import ProgressBar from 'primevue/progressbar'
import { computed, onUnmounted, ref } from 'vue'
import { useDoing } from '@/api/doing'
import type { OutView } from '@/api/types'
import { save } from '../save'
import { chosenOf, type Selection } from '../selection'
import type { Asking } from './asking'
import type { Table } from './table'

/** The table as a file: all that match or the rows chosen, in the columns and order shown. */
const props = defineProps<{ table: Table; ask: Asking; chosen: Selection; count: number; name: string }>()
const file = ref<OutView | null>(null)
const { failed, said, attempt } = useDoing()
let timer = 0
onUnmounted(() => clearTimeout(timer))

/** How many rows the file will have, 0 while that is not known. */
const expected = ref(0)
const percent = computed(() =>
  expected.value ? Math.min(100, Math.floor((100 * (file.value?.done ?? 0)) / expected.value)) : 0,
)
const plural = (n: number) => `${n.toLocaleString()} ${n === 1 ? 'row' : 'rows'}`

const take = (format: string, onlyChosen: boolean) =>
  attempt(async () => {
    const chosen = onlyChosen ? chosenOf(props.chosen) : undefined
    const asked = await props.ask.out({ look: props.table.look.value, format, name: props.name, chosen })
    file.value = asked
    expected.value = onlyChosen ? props.count : props.table.counted.value ? props.table.total.value : 0
    save(props.ask.fileAddress(asked.id))
    follow(asked.id)
  })

function follow(id: string): void {
  timer = window.setTimeout(async () => {
    file.value = await props.ask.outgoing(id).catch(() => file.value)
    if (file.value?.state === 'failed')
      said.value = 'The file broke off, so it is not whole. Take it out again.'
    else if (file.value?.state !== 'done') follow(id)
  }, 400)
}
</script>

<template>
  <div class="out">
    <p>
      All {{ table.counted.value ? plural(table.total.value) : '' }} that match
      <Button size="small" outlined label="CSV" @click="take('csv', false)" />
      <Button size="small" outlined label="XLSX" @click="take('xlsx', false)" />
    </p>
    <p v-if="count">
      The {{ plural(count) }} chosen
      <Button size="small" outlined label="CSV" @click="take('csv', true)" />
      <Button size="small" outlined label="XLSX" @click="take('xlsx', true)" />
    </p>
    <p class="muted">In the columns and the order shown.</p>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <div v-else-if="file" role="status">
      <template v-if="file.state === 'done'">{{ plural(file.done) }} written.</template>
      <template v-else>
        Writing, {{ file.done.toLocaleString() }} {{ expected ? 'of ' + plural(expected) : 'so far' }} …
        <ProgressBar
          :mode="expected ? 'determinate' : 'indeterminate'"
          :value="percent"
          :show-value="false"
          class="bar"
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.out {
  max-width: 24rem;
}
p {
  margin: 0 0 0.6rem;
}
p button {
  margin-left: 0.4rem;
}
.bar {
  height: 6px;
  margin-top: 0.3rem;
}
</style>
