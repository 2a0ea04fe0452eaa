<script setup lang="ts">
import Select from 'primevue/select'
import { computed, onMounted, ref, watch } from 'vue'
import { api } from '@/api/client'
import type { DocumentView, Line, Operand, Take, Walkthrough } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import ValuesEditor from '../conditions/ValuesEditor.vue'
import TextSlot from '../sheet/TextSlot.vue'

/** One thing that pressing a button does. */
defineProps<{ place: string; object: string }>()
const line = defineModel<Line>({ required: true })
const emit = defineEmits<{ remove: [] }>()
const build = useBuild()
const kinds = [
  { key: 'change', label: 'change fields' },
  { key: 'walkthrough', label: 'open a walkthrough' },
  { key: 'record', label: 'open the record' },
  { key: 'out', label: 'take the table out' },
  { key: 'link', label: 'copy the link of the page' },
  { key: 'message', label: 'say' },
]
const walks = computed(() => build.contents?.documents.filter((d) => d.kind === 'walkthrough') ?? [])
/** What the walkthrough wants to be handed. */
const takes = ref<Take[]>([])
async function loadTakes(): Promise<void> {
  takes.value = []
  if (!line.value.walkthrough) return
  const view = await api.get<DocumentView>('/build/documents/walkthrough/' + line.value.walkthrough)
  takes.value = (view.body as Walkthrough).takes ?? []
}
onMounted(loadTakes)
watch(() => line.value.walkthrough, loadTakes)

function change(some: Partial<Line>): void {
  line.value = { ...line.value, ...some }
}

function setKind(kind: string): void {
  const fresh: Line = { kind }
  if (kind === 'change') fresh.change = []
  if (kind === 'out') fresh.format = 'csv'
  if (kind === 'message') fresh.message = 'Done.'
  line.value = fresh
}

function set(key: string, value: Operand | undefined): void {
  const others = (line.value.change ?? []).filter((s) => s.field !== key)
  change({ change: value ? [...others, { field: key, value }] : others })
}

const handed = (to: string) => line.value.hand?.find((h) => h.to === to)?.value ?? ''

function hand(to: string, value: string): void {
  const others = (line.value.hand ?? []).filter((h) => h.to !== to)
  change({ hand: value ? [...others, { to, value }] : others })
}
</script>

<template>
  <div class="line">
    <div class="row">
      <Select
        :model-value="line.kind"
        :options="kinds"
        option-label="label"
        option-value="key"
        size="small"
        aria-label="What it does"
        @update:model-value="setKind"
      />
      <template v-if="line.kind === 'walkthrough'">
        <Select
          :model-value="line.walkthrough ?? ''"
          :options="walks"
          option-label="label"
          option-value="key"
          size="small"
          placeholder="which"
          aria-label="Which walkthrough"
          @update:model-value="change({ walkthrough: $event, hand: undefined })"
        />
        <label class="row"
          ><input
            type="checkbox"
            :checked="line.dialog ?? false"
            @change="change({ dialog: ($event.target as HTMLInputElement).checked || undefined })"
          />
          in a dialog</label
        >
      </template>
      <Select
        v-else-if="line.kind === 'out'"
        :model-value="line.format"
        :options="['csv', 'xlsx']"
        size="small"
        aria-label="Kind of file"
        @update:model-value="change({ format: $event })"
      />
      <TextSlot
        v-else-if="line.kind === 'message'"
        :model-value="line.message ?? ''"
        label="What it says"
        @update:model-value="change({ message: $event })"
      />
      <RemoveButton label="Do not do this" @press="emit('remove')" />
    </div>
    <div v-for="t in takes" :key="t.key" class="row">
      {{ t.label }} is
      <KnownPicker
        :model-value="handed(t.key)"
        :place="place"
        :label="t.label"
        :placeholder="t.required ? 'required' : 'nothing'"
        @update:model-value="hand(t.key, $event)"
      />
    </div>
    <ValuesEditor
      v-if="line.kind === 'change'"
      :object="object"
      :place="place"
      :values="line.change ?? []"
      @set="set"
      @unset="set($event, undefined)"
    />
  </div>
</template>

<style scoped>
.line {
  display: flex;
  flex-direction: column;
  gap: 0.3rem;
}
</style>
