<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { IconArrowDown, IconArrowUp } from '@tabler/icons-vue'
import Button from 'primevue/button'
import InputText from 'primevue/inputtext'
import Select from 'primevue/select'
import Textarea from 'primevue/textarea'
import { computed, ref } from 'vue'
import { useConfirm } from 'primevue/useconfirm'

import type { ChoiceValue, Finding } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { keyFrom, useBuild } from '../build'
import { usesOf } from './uses'
import TextSlot from '../sheet/TextSlot.vue'

/** The values of a choice: pasted by lines, put in order, coloured, retired. */
const values = defineModel<ChoiceValue[]>({ required: true })
const props = defineProps<{ uses: (choice: string) => Promise<Finding[]> }>()
const build = useBuild()
const confirm = useConfirm()
const emit = defineEmits<{ rename: [from: string, to: string] }>()
const pasted = ref('')
const colours = ['plum', 'pine', 'ochre', 'brick', 'slate', 'teal']
const options = [{ key: '', label: 'no colour' }, ...colours.map((key) => ({ key, label: key }))]

function paste(): void {
  const next = [...values.value]
  for (const label of pasted.value.split('\n').map((l) => l.trim())) {
    if (!label || next.some((v) => v.label.toLowerCase() === label.toLowerCase())) continue
    next.push({
      key: keyFrom(
        label,
        next.map((v) => v.key),
      ),
      label,
    })
  }
  pasted.value = ''
  values.value = next
}

function change(i: number, some: Partial<ChoiceValue>): void {
  values.value = values.value.map((v, n) => (n === i ? { ...v, ...some } : v))
}

/** What names the value is said first; stored records that hold it are found by the server. */
async function remove(v: ChoiceValue): Promise<void> {
  const take = () => (values.value = values.value.filter((o) => o.key !== v.key))
  let uses: Finding[] = []
  try {
    uses = await props.uses(v.key)
  } catch {
    // a value just added is used nowhere
  }
  if (!uses.length) {
    take()
    return
  }
  const places = usesOf(build, uses).map((u) => u.label + (u.words ? ` (${u.words})` : ''))
  confirm.require({
    defaultFocus: 'reject',
    header: `Remove ${v.label}?`,
    message: `This would break: ${places.join('; ')}.`,
    acceptLabel: 'Remove',
    rejectLabel: 'Keep it',
    rejectProps: { outlined: true },
    accept: take,
  })
}

function move(i: number, by: number): void {
  const next = [...values.value]
  const [one] = next.splice(i, 1)
  next.splice(i + by, 0, one)
  values.value = next
}

const shown = ref('')
const places = computed(() =>
  values.value
    .map((_, i) => i)
    .filter((i) => values.value[i].label.toLowerCase().includes(shown.value.trim().toLowerCase())),
)
/** Of many values only those in sight are drawn. */
const many = 40
const list = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({
    count: places.value.length,
    getScrollElement: () => list.value,
    estimateSize: () => 40,
    overscan: 8,
  })),
)
const rows = computed(() =>
  values.value.length <= many
    ? places.value.map((i) => ({ i, from: undefined }))
    : virtual.value.getVirtualItems().map((item) => ({ i: places.value[item.index], from: item.start })),
)
const height = computed(() => (values.value.length <= many ? undefined : virtual.value.getTotalSize() + 'px'))
</script>

<template>
  <InputText
    v-if="values.length > many"
    v-model="shown"
    size="small"
    :placeholder="`Find one of ${values.length} values`"
    aria-label="Find a value"
  />
  <div ref="list" :class="{ many: values.length > many }">
    <ol :style="{ height }">
      <li
        v-for="{ i, from } in rows"
        :key="values[i].key"
        :class="{ retired: values[i].retired, placed: from !== undefined }"
        :style="{ transform: from === undefined ? undefined : `translateY(${from}px)` }"
      >
        <button
          type="button"
          class="plain"
          :disabled="i === 0"
          :aria-label="'Move up: ' + values[i].label"
          @click="move(i, -1)"
        >
          <IconArrowUp :size="14" />
        </button>
        <button
          type="button"
          class="plain"
          :disabled="i === values.length - 1"
          :aria-label="'Move down: ' + values[i].label"
          @click="move(i, 1)"
        >
          <IconArrowDown :size="14" />
        </button>
        <span class="dot" :class="values[i].colour" aria-hidden="true" />
        <TextSlot
          :model-value="values[i].label"
          :label="'Value ' + (i + 1)"
          @update:model-value="change(i, { label: $event })"
        />
        <span class="muted">known as</span>
        <TextSlot
          :model-value="values[i].key"
          :label="'Key of ' + values[i].label"
          class="key"
          @update:model-value="emit('rename', values[i].key, $event)"
        />
        <Select
          :model-value="values[i].colour ?? ''"
          :options="options"
          option-label="label"
          option-value="key"
          placeholder="no colour"
          size="small"
          :aria-label="'Colour of ' + values[i].label"
          @update:model-value="change(i, { colour: $event || undefined })"
        />
        <button
          type="button"
          class="plain link"
          @click="change(i, { retired: !values[i].retired || undefined })"
        >
          {{ values[i].retired ? 'bring back' : 'retire' }}
        </button>
        <span v-if="values[i].retired" class="muted">retired: stays where it is, can be chosen no more</span>
        <RemoveButton :label="'Remove ' + values[i].label" @press="remove(values[i])" />
      </li>
    </ol>
  </div>
  <div class="paste">
    <Textarea
      v-model="pasted"
      rows="2"
      auto-resize
      aria-label="More values, one a line"
      placeholder="More values, one a line"
    />
    <Button outlined size="small" label="Add the lines" :disabled="!pasted.trim()" @click="paste" />
  </div>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 0.25rem;
}
li {
  display: flex;
  align-items: center;
  gap: 0.5rem;
}
.many {
  max-height: 24rem;
  overflow: auto;
}
.many ol {
  position: relative;
  display: block;
}
li.placed {
  position: absolute;
  inset: 0 0 auto 0;
}
.key {
  width: 8rem;
  font-family: ui-monospace, monospace;
}
.retired :deep(input) {
  text-decoration: line-through;
}
.paste {
  display: flex;
  gap: 0.5rem;
  align-items: flex-end;
}
.plain:disabled {
  color: var(--line);
  cursor: default;
}
</style>
