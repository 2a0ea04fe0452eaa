<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Their } from '@/api/types'
import { useBuild } from '../build'
import { useReferring } from './referring'

/** Whether records themselves are meant, or those that refer to them, such as their badges. */
const props = defineProps<{ object: string }>()
const their = defineModel<Their | undefined>({ required: true })
const build = useBuild()
const referring = useReferring(() => props.object)
const themselves = 'themselves'

const options = computed(() => [
  { key: themselves, label: 'themselves', said: '' },
  ...referring.value.map((r) => ({
    key: r.key,
    label: 'their ' + r.label,
    said: r.count ? `${r.count.of} of ${r.count.of + r.count.without} have one` : '',
  })),
])
const chosen = computed(() => (their.value ? their.value.object + '.' + their.value.field : themselves))
const count = computed(() => referring.value.find((r) => r.key === chosen.value)?.count)
const of = computed(() => build.object(props.object))
const counted = computed(() => {
  const c = count.value
  if (!c || !of.value) return ''
  const have = `${c.of} of all ${c.of + c.without} ${of.value.plural.toLowerCase()} have ${c.records}`
  return have + (c.without ? `; ${c.without} ${c.without === 1 ? 'has' : 'have'} none` : '')
})

function choose(key: string): void {
  const [object = '', field = ''] = key.split('.')
  their.value = key === themselves ? undefined : { object, field }
}
</script>

<template>
  <Select
    v-if="options.length > 1"
    :model-value="chosen"
    :options="options"
    option-label="label"
    option-value="key"
    size="small"
    filter
    aria-label="They themselves, or what refers to them"
    @update:model-value="choose"
  >
    <template #option="{ option }">
      {{ option.label }} <span class="muted said">{{ option.said }}</span>
    </template>
  </Select>
  <template v-if="their">
    <span v-if="counted" class="muted">{{ counted }}</span>
    <Select
      :model-value="their.none ?? 'pass'"
      :options="[
        { key: 'pass', label: 'those with none are passed over' },
        { key: 'stop', label: 'nothing is done if one has none' },
      ]"
      option-label="label"
      option-value="key"
      size="small"
      aria-label="What becomes of those with none"
      @update:model-value="their = { ...their, none: $event === 'stop' ? 'stop' : undefined }"
    />
  </template>
</template>

<style scoped>
.said {
  margin-left: 1rem;
}
</style>
