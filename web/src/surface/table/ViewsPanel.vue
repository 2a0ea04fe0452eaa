<script setup lang="ts">
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import { computed, ref } from 'vue'
import { seenAs, titleOf } from '@/api/client'
import type { SavedView } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import type { Asking } from './asking'
import type { Table } from './table'

/** A person's own views of a table: opening, keeping, taking away. */
const props = defineProps<{ table: Table; ask: Asking; builds: boolean }>()
const views = defineModel<SavedView[]>('views', { required: true })
const current = defineModel<string>('current', { required: true })
const emit = defineEmits<{ done: []; ship: [name: string] }>()
const name = ref(current.value)
const failed = ref('')
const named = computed(() => views.value.filter((v) => v.name && !v.shipped))
const shipped = computed(() => views.value.filter((v) => v.shipped))

async function open(view: SavedView | null): Promise<void> {
  current.value = view?.name ?? ''
  name.value = current.value
  emit('done')
  await props.table.apply(view?.body ?? { look: {} })
  if (view?.id && !seenAs()) await props.ask.use(view.id).catch(() => undefined)
  else props.table.arrange({})
}

async function keep(): Promise<void> {
  failed.value = ''
  try {
    props.table.named()
    const kept = await props.ask.keep(name.value.trim(), props.table.arrangement.value)
    views.value = [kept, ...views.value.filter((v) => v.name !== kept.name)]
    current.value = kept.name
    emit('done')
  } catch (error) {
    failed.value = titleOf(error)
  }
}

async function remove(view: SavedView): Promise<void> {
  try {
    await props.ask.remove(view.id)
    views.value = views.value.filter((v) => v.id !== view.id)
    if (current.value === view.name) current.value = ''
  } catch (error) {
    failed.value = titleOf(error)
  }
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
        <RemoveButton :label="'Take away the view ' + v.name" @press="remove(v)" />
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
      v-if="builds"
      text
      size="small"
      label="Give it to everybody who opens the page"
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
