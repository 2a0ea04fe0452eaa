<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Ref } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import FileDrop from './FileDrop.vue'
import FileValue from './FileValue.vue'
import { fieldTypes, type FieldType } from './fields'
import ReferenceInput from './ReferenceInput.vue'

/** Several records or files, each once, in the order they were given. */
const props = defineProps<{
  id: string
  type: FieldType
  invalid?: boolean
  describedBy?: string
  find: (text: string) => Promise<Ref[]>
}>()
const value = defineModel<unknown>({ required: true })
const given = computed(() => (value.value as Ref[] | null) ?? [])
const file = computed(() => fieldTypes[props.type].family === 'file')
const picture = computed(() => props.type === 'picture')
/** The input begins anew with each record that was chosen. */
const turn = ref(0)

function add(one: Ref | null): void {
  if (!one) return
  if (!given.value.some((g) => g.id === one.id)) value.value = [...given.value, one]
  turn.value++
  if (!file.value) requestAnimationFrame(() => document.getElementById(props.id)?.focus())
}

const remove = (id: number) => (value.value = given.value.filter((g) => g.id !== id))

/** What is given already is not offered again. */
const others = async (text: string) =>
  (await props.find(text)).filter((o) => !given.value.some((g) => g.id === o.id))
</script>

<template>
  <div class="several">
    <ul v-if="given.length">
      <li v-for="one in given" :key="one.id">
        <FileValue v-if="file" :file="one" :picture="picture" />
        <span v-else>{{ one.label || `No. ${one.id}` }}</span>
        <RemoveButton :label="'Without ' + one.label" @press="remove(one.id)" />
      </li>
    </ul>
    <FileDrop
      v-if="file"
      :id="id"
      several
      :picture="picture"
      :described-by="describedBy"
      :words="picture ? 'Choose pictures…' : 'Choose files…'"
      @given="add"
    >
      <span class="muted">or drop them here</span>
    </FileDrop>
    <ReferenceInput
      v-else
      :id="id"
      :key="turn"
      :model-value="null"
      :find="others"
      :invalid="invalid"
      :placeholder="given.length ? 'another one' : undefined"
      @update:model-value="add"
    />
  </div>
</template>

<style scoped>
.several {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: inline-flex;
  align-items: center;
  margin: 0 0.6rem 0.2rem 0;
  padding-left: 0.5rem;
  background: var(--tint);
  border-radius: 3px;
  --picture: 48px;
}
</style>
