<script setup lang="ts">
import { typeWords } from '@/fields/fields'
import AutoComplete, { type AutoCompleteCompleteEvent } from 'primevue/autocomplete'
import { computed, ref, watch } from 'vue'
import { matching, useBuild, type PathOption } from '../build'

/** Picks a field of an object or of what it refers to: typing "customer name" finds
 *  Building › Customer › Name. */
const props = defineProps<{
  object: string
  label: string
  placeholder?: string
  only?: (o: PathOption) => boolean
}>()
const path = defineModel<string>({ required: true })
const build = useBuild()
const text = ref<string | PathOption>('')
const found = ref<PathOption[]>([])
const options = computed(() => build.paths(props.object).filter((o) => props.only?.(o) ?? true))
const shown = computed(() => (path.value ? build.pathLabel(props.object, path.value) : ''))

watch(shown, (s) => (text.value = s), { immediate: true })

function complete(event: AutoCompleteCompleteEvent): void {
  found.value = matching(options.value, event.query === shown.value ? '' : event.query)
}

function take(option: PathOption): void {
  if (option.path !== path.value) path.value = option.path
  text.value = build.pathLabel(props.object, option.path)
}

function leave(): void {
  text.value = shown.value
}
</script>

<template>
  <AutoComplete
    v-model="text"
    :suggestions="found"
    option-label="label"
    :delay="0"
    :min-length="0"
    complete-on-focus
    auto-option-focus
    :aria-label="label"
    :placeholder="placeholder ?? 'field'"
    size="small"
    class="path"
    empty-search-message="No field of that name"
    @complete="complete"
    @option-select="take($event.value)"
    @blur="leave"
  >
    <template #option="{ option }">
      <span class="option"
        ><span>{{ option.label }}</span
        ><span class="muted">{{ typeWords((option as PathOption).field.type) }}</span></span
      >
    </template>
  </AutoComplete>
</template>

<style scoped>
.path :deep(input) {
  width: 100%;
}
.path {
  min-width: 13rem;
}
.option {
  display: flex;
  justify-content: space-between;
  gap: 2rem;
  font-size: 0.9rem;
}
</style>
