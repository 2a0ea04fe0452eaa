<script setup lang="ts">
import Button from 'primevue/button'
import { computed } from 'vue'
import type { Button as Def } from '@/api/types'
import { keyFrom } from '../build'
import { useSheet } from '../sheet/context'
import ButtonEditor from './ButtonEditor.vue'

/** The buttons of a table. The place is where their expressions stand: the page and the row. */
const props = defineProps<{ pointer: string; place: string; object: string }>()
const buttons = defineModel<Def[]>({ required: true })
const sheet = useSheet()
const keys = computed(() => buttons.value.map((b) => b.key))

function add(): void {
  const key = keyFrom('button', keys.value)
  buttons.value = [...buttons.value, { key, label: 'New button', on: 'one', do: [{ kind: 'open' }] }]
}

async function remove(i: number): Promise<void> {
  if (await sheet.removable(`${props.pointer}/${i}`, `“${buttons.value[i].label}”`))
    buttons.value = buttons.value.filter((_, n) => n !== i)
}

function change(i: number, next: Def): void {
  buttons.value = buttons.value.map((b, n) => (n === i ? next : b))
}
</script>

<template>
  <div class="buttons">
    <ButtonEditor
      v-for="(b, i) in buttons"
      :key="b.key"
      :model-value="b"
      :pointer="`${props.pointer}/${i}`"
      :place="place"
      :object="object"
      @update:model-value="change(i, $event)"
      @remove="remove(i)"
    />
    <Button text size="small" label="Add a button" @click="add" />
  </div>
</template>

<style scoped>
.buttons {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 0.5rem;
  margin-top: 0.5rem;
}
</style>
