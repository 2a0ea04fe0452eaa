<script setup lang="ts">
import Button from 'primevue/button'
import Checkbox from 'primevue/checkbox'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Screen } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { keyFrom } from '../build'
import { changes, put } from '../document'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useSheet } from './context'
import KeySlot from './KeySlot.vue'
import SentenceSlot from './SentenceSlot.vue'
import TextSlot from './TextSlot.vue'

/** What the buttons of a screen say, which there are, and what must hold when somebody goes on. */
const props = defineProps<{ screen: Screen; step: string; pointer: string }>()
const sheet = useSheet()
const inputs = computed(() =>
  props.screen.bands
    .flatMap((b) => b.columns.flatMap((c) => c.parts))
    .map((p) => ({ key: p.key, label: p.label || p.key })),
)
const places = computed(() => [{ key: '', label: 'above all' }, ...inputs.value])

function change(some: Partial<Screen>): void {
  const ops = changes(props.pointer, props.screen, { ...props.screen, ...some })
  if (ops.length) void sheet.edit(...ops)
}

/** Buttons that are there when they say something. */
const optional = [
  { member: 'cancel', label: 'Cancel', words: 'one that ends it' },
  { member: 'later', label: 'Save for later', words: 'one that leaves it for later' },
] as const

function second(is: boolean): void {
  const key = keyFrom(
    'second',
    inputs.value.map((i) => i.key),
  )
  change({ second: is ? { key, label: 'Another way' } : undefined })
}

function check(i: number, some: Partial<NonNullable<Screen['checks']>[number]>): void {
  change({ checks: props.screen.checks?.map((c, n) => (n === i ? { ...c, ...some } : c)) })
}

function addCheck(): void {
  void sheet.edit(
    put(props.pointer + '/checks', [
      ...(props.screen.checks ?? []),
      { expression: '', message: 'Please look at this again.' },
    ]),
  )
}

function dropCheck(i: number): void {
  const left = props.screen.checks?.filter((_, n) => n !== i) ?? []
  change({ checks: left.length ? left : undefined })
}
</script>

<template>
  <div class="row">
    The button says
    <TextSlot
      :model-value="screen.next ?? ''"
      label="Label of the button"
      placeholder="Next"
      @update:model-value="change({ next: $event || undefined })"
    />
    and the one that goes back
    <TextSlot
      v-if="!screen.no_back"
      :model-value="screen.back ?? ''"
      label="Label of the button that goes back"
      placeholder="Back"
      @update:model-value="change({ back: $event || undefined })"
    />
    <label class="row">
      <Checkbox
        binary
        :model-value="screen.no_back ?? false"
        @update:model-value="change({ no_back: $event || undefined, back: undefined })"
      />
      is not there
    </label>
  </div>
  <details :open="!!(screen.cancel || screen.later || screen.second || screen.no_progress)">
    <summary>Other buttons</summary>
    <div v-for="o in optional" :key="o.member" class="row">
      <label class="row">
        <Checkbox
          binary
          :model-value="!!screen[o.member]"
          @update:model-value="change({ [o.member]: $event ? o.label : undefined })"
        />
        {{ o.words }}
      </label>
      <template v-if="screen[o.member]">
        , which says
        <TextSlot
          :model-value="screen[o.member] ?? ''"
          :label="'Label of ' + o.words"
          :placeholder="o.label"
          @update:model-value="change({ [o.member]: $event || undefined })"
        />
      </template>
    </div>
    <div class="row">
      <label class="row">
        <Checkbox binary :model-value="!!screen.second" @update:model-value="second" />
        a second way on
      </label>
      <template v-if="screen.second">
        , which says
        <TextSlot
          :model-value="screen.second.label"
          label="Label of the second way on"
          @update:model-value="change({ second: { ...screen.second!, label: $event } })"
        />
        <KeySlot
          :pointer="pointer + '/second'"
          :name="screen.second.key"
          :within="step"
          label="Key of the second way on"
        />
      </template>
    </div>
    <label class="row">
      <Checkbox
        binary
        :model-value="screen.no_progress ?? false"
        @update:model-value="change({ no_progress: $event || undefined })"
      />
      people are not told which screen it is
    </label>
  </details>
  <div v-for="(c, i) in screen.checks ?? []" :key="i" class="row">
    it must hold that
    <KnownPicker
      :model-value="c.expression"
      :place="step + '!'"
      :label="'What must hold ' + (i + 1)"
      placeholder="an expression over what is given"
      class="wide"
      @update:model-value="check(i, { expression: $event })"
    />
    or else it says
    <SentenceSlot
      :place="step + '!'"
      :model-value="c.message"
      :label="'What is said ' + (i + 1)"
      class="wide"
      @update:model-value="check(i, { message: $event })"
    />
    <Select
      :model-value="c.part ?? ''"
      :options="places"
      option-label="label"
      option-value="key"
      size="small"
      :aria-label="'Where it is said ' + (i + 1)"
      placeholder="above all"
      @update:model-value="check(i, { part: $event || undefined })"
    />
    <RemoveButton :label="'Remove check ' + (i + 1)" @press="dropCheck(i)" />
  </div>
  <div class="row">
    <Button text size="small" label="Add a check of what is given" @click="addCheck" />
  </div>
</template>

<style scoped>
summary {
  cursor: pointer;
  color: var(--accent);
}
.wide {
  flex: 1 1 18rem;
}
</style>
