<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import InputText from 'primevue/inputtext'
import { computed, ref, useId, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useAsked } from '@/api/asked'
import { given, seated } from '@/api/client'
import type { PartProps } from './parts'

/** A box in which records of several objects are found by what they are called; one that is chosen opens. */
defineOptions({ inheritAttrs: false })
const props = defineProps<PartProps>()
const router = useRouter()
const id = useId()
const text = ref('')
const sought = refDebounced(text, 200)
const open = ref(false)
const at = ref(0)
const of = computed(() => (props.part.finder?.objects ?? []).join(','))
const least = 2

const { found, failed, reading } = useAsked(
  () => ['anywhere', props.source.base, of.value, sought.value.trim()],
  (signal) =>
    given(
      seated(props.source.base).GET('/anywhere', {
        params: { query: { text: sought.value.trim(), of: of.value } },
        signal,
      }),
    ),
  { when: () => sought.value.trim().length >= least, fresh: true },
)
const records = computed(() => (sought.value.trim().length < least ? [] : (found.value?.records ?? [])))
watch(records, () => (at.value = 0))
const nothing = computed(
  () => sought.value.trim().length >= least && !reading.value && !failed.value && !records.value.length,
)

function step(by: number): void {
  open.value = true
  if (records.value.length) at.value = (at.value + by + records.value.length) % records.value.length
}

async function go(i: number): Promise<void> {
  const record = records.value[i]
  const address = record && props.source.recordAddress(record.object, record.id)
  if (!address) return
  open.value = false
  if (props.source.beside) window.open(address, '_blank')
  else await router.push(address)
}
</script>

<template>
  <section class="finder" role="search" @focusout="open = false" @keydown.esc="open = false">
    <label v-if="part.label" :for="id">{{ part.label }}</label>
    <InputText
      :id="id"
      v-model="text"
      fluid
      role="combobox"
      autocomplete="off"
      :aria-expanded="open && records.length > 0"
      :aria-controls="id + 'l'"
      :aria-activedescendant="open && records.length ? id + at : undefined"
      :aria-label="part.label ? undefined : 'Find'"
      placeholder="a name or a number …"
      @focus="open = true"
      @input="open = true"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.enter.prevent="go(at)"
    />
    <ul
      v-show="open && records.length"
      :id="id + 'l'"
      role="listbox"
      :aria-label="'Found: ' + (part.label || 'records')"
    >
      <li
        v-for="(r, i) in records"
        :id="id + i"
        :key="`${r.object} ${r.id}`"
        role="option"
        :aria-selected="i === at"
        @mousedown.prevent="go(i)"
        @mousemove="at = i"
      >
        <span>{{ r.label }}</span> <span class="muted">{{ r.kind }}</span>
      </li>
    </ul>
    <p v-if="failed" class="bad" role="alert">{{ failed }}</p>
    <p v-else-if="nothing && open" class="muted" role="status">Nothing is called so.</p>
  </section>
</template>

<style scoped>
.finder {
  position: relative;
  max-width: 34rem;
}
label {
  display: block;
  margin-bottom: 0.2rem;
}
p {
  margin: 0.3rem 0 0;
}
ul {
  position: absolute;
  z-index: 20;
  inset-inline: 0;
  margin: 2px 0 0;
  padding: 0.2rem 0;
  list-style: none;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 4px;
  box-shadow: 0 4px 12px rgb(0 0 0 / 12%);
}
li {
  display: flex;
  justify-content: space-between;
  gap: 1.5rem;
  padding: 0.3rem 0.7rem;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--tint);
}
</style>
