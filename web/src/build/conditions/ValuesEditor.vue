<script setup lang="ts">
import Select from 'primevue/select'
import { computed, nextTick, ref } from 'vue'
import type { Operand } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { settable, useBuild } from '../build'
import EmptyWay from './EmptyWay.vue'
import OperandSlot from './OperandSlot.vue'

/** Fields of an object that are set to values. A field just chosen stays here until it has one. */
const props = defineProps<{
  object: string
  place: string
  values: { field: string; value: Operand }[]
}>()
const emit = defineEmits<{ set: [field: string, value: Operand | undefined]; unset: [field: string] }>()
const build = useBuild()
const fields = computed(() => settable(build.object(props.object)))
const left = computed(() => fields.value.filter((f) => !props.values.some((v) => v.field === f.key)))
const fieldOf = (key: string | null) => fields.value.find((f) => f.key === key)
const pending = ref<string | null>(null)

const another = ref<{ $el: HTMLElement } | null>(null)

/** The keyboard goes on to the next field, unless somebody has taken it elsewhere by then. */
async function fill(value: Operand | undefined): Promise<void> {
  if (!pending.value || !value) return
  emit('set', pending.value, value)
  pending.value = null
  await nextTick()
  if (document.activeElement === document.body)
    another.value?.$el.querySelector<HTMLElement>('[role=combobox]')?.focus()
}
</script>

<template>
  <div v-for="v in values" :key="v.field" class="row">
    <span class="field">{{ fieldOf(v.field)?.label ?? v.field }}</span> is
    <OperandSlot
      v-if="fieldOf(v.field)"
      :model-value="v.value"
      :place="place"
      :field="fieldOf(v.field)!"
      :label="v.field"
      @update:model-value="emit('set', v.field, $event)"
    />
    <EmptyWay
      v-if="fieldOf(v.field) && v.value.expression"
      :model-value="v.value.expression"
      :place="place"
      :field="fieldOf(v.field)!"
      @update:model-value="emit('set', v.field, { expression: $event })"
    />
    <RemoveButton :label="'Do not set ' + v.field" @press="emit('unset', v.field)" />
  </div>
  <div class="row">
    <Select
      ref="another"
      v-model="pending"
      :options="left"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="set a field…"
      aria-label="Set a field"
    />
    <template v-if="fieldOf(pending)">
      is
      <OperandSlot
        :model-value="undefined"
        :place="place"
        :field="fieldOf(pending)!"
        :label="fieldOf(pending)!.label"
        @update:model-value="fill"
      />
    </template>
  </div>
</template>

<style scoped>
.field {
  min-width: 6rem;
  font-weight: 600;
}
</style>
