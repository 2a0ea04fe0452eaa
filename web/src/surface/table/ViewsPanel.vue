<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import { seenAs } from '@/api/client'
import type { SavedView } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import type { Views } from './views'

/** A person's own views of a table: opening, keeping, taking away. */
const props = defineProps<{ views: Views; ships: boolean }>()
const emit = defineEmits<{ done: []; ship: [name: string] }>()
const name = ref(props.views.current.value)
const failed = ref('')
const current = computed(() => props.views.current.value)
const named = computed(() => props.views.all.value.filter((v) => v.name && !v.shipped))
const shipped = computed(() => props.views.all.value.filter((v) => v.shipped))

function open(view: SavedView | null): void {
  emit('done')
  void props.views.open(view)
}

async function keep(): Promise<void> {
  failed.value = await props.views.keep(name.value.trim())
  if (!failed.value) emit('done')
}

async function remove(view: SavedView): Promise<void> {
  failed.value = await props.views.remove(view)
}
</script>

<template>
  <div class="panel">
    <ul>
      <li>
        <button type="button" class="plain link" @click="open(null)">As it came</button>
      </li>
      <li v-for="v in shipped" :key="'s' + v.name">
        <button type="button" class="plain link" :aria-current="v.name === current" @click="open(v)">
          {{ v.name }}
        </button>
        <span class="muted">from the builder</span>
      </li>
      <li v-for="v in named" :key="v.id">
        <button type="button" class="plain link" :aria-current="v.name === current" @click="open(v)">
          {{ v.name }}
        </button>
        <RemoveButton :label="'Remove the view ' + v.name" @press="remove(v)" />
      </li>
    </ul>
    <form class="row" @submit.prevent="keep">
      <InputText
        v-model="name"
        size="small"
        placeholder="Name"
        aria-label="Name of the view"
        maxlength="60"
      />
      <Button
        type="submit"
        size="small"
        :label="named.some((v) => v.name === name.trim()) ? 'Keep it anew' : 'Keep this view'"
        :disabled="!name.trim() || !!seenAs()"
      />
    </form>
    <Button
      v-if="ships"
      text
      size="small"
      label="Give it to everybody who sees the table"
      :disabled="!name.trim()"
      @click="emit('ship', name.trim())"
    />
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <p class="muted">Views are yours alone. The table comes back as you left it.</p>
  </div>
</template>

<style scoped>
.panel {
  max-width: 22rem;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 0.6rem;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 1rem;
  padding: 0.12rem 0;
}
[aria-current='true'] {
  font-weight: 650;
}
p {
  margin: 0.5rem 0 0;
}
</style>
