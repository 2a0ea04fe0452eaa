<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Remove } from '@/api/types'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import { useKnown } from '../conditions/context'
import { useReferring } from './referring'
import TheirSlot from './TheirSlot.vue'
import { typeAt } from './typeat'

/** Removes records, and says what becomes of those that refer to them. */
const props = defineProps<{ place: string; rows?: string }>()
const remove = defineModel<Remove>({ required: true })
const build = useBuild()
const known = useKnown()
const of = computed(() =>
  remove.value.of
    ? (typeAt(build, known.names(props.place), remove.value.of)?.object ?? '')
    : (props.rows ?? ''),
)
const object = computed(() => remove.value.their?.object ?? of.value)
const referring = useReferring(() => object.value)
const asked = computed(() =>
  referring.value.map((r) => ({
    ...r,
    then:
      remove.value.referring?.find((x) => x.object === r.object.key && x.field === r.field.key)?.then ??
      'stay',
    ways: [
      { key: 'stay', label: 'keep it from being removed' },
      { key: 'remove', label: 'are removed with it' },
      ...(r.field.required ? [] : [{ key: 'empty', label: 'refer to nothing any more' }]),
    ],
  })),
)

function answer(r: { object: { key: string }; field: { key: string } }, then: string): void {
  const others = (remove.value.referring ?? []).filter(
    (x) => x.object !== r.object.key || x.field !== r.field.key,
  )
  const all =
    then === 'remove' || then === 'empty'
      ? [...others, { object: r.object.key, field: r.field.key, then: then as 'remove' | 'empty' }]
      : others
  remove.value = { ...remove.value, referring: all.length ? all : undefined }
}
</script>

<template>
  <div class="row">
    Remove
    <KnownPicker
      :model-value="remove.of ?? ''"
      :place="place"
      kind="records"
      label="What is removed"
      :placeholder="rows ? 'the rows' : 'which records'"
      @update:model-value="remove = { of: $event || undefined }"
    />
    <TheirSlot
      v-if="of"
      :object="of"
      :model-value="remove.their"
      @update:model-value="remove = { ...remove, their: $event, referring: undefined }"
    />
  </div>
  <template v-if="object && asked.length">
    <p class="muted">What refers to {{ build.one(object) }} that is removed:</p>
    <div v-for="r in asked" :key="r.key" class="row">
      <span class="what"
        >{{ r.object.plural }} <span class="muted">by {{ r.field.label }}</span></span
      >
      <Select
        :model-value="r.then"
        :options="r.ways"
        option-label="label"
        option-value="key"
        size="small"
        :aria-label="'What becomes of ' + r.object.plural"
        @update:model-value="answer(r, $event)"
      />
      <span v-if="r.count" class="muted">{{ r.count.records }} there are</span>
    </div>
  </template>
  <p v-else-if="object" class="muted">Nothing can refer to {{ build.one(object) }}.</p>
</template>

<style scoped>
.what {
  min-width: 14rem;
}
</style>
