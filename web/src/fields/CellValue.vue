<script setup lang="ts">
import { computed } from 'vue'
import type { Heading, Ref } from '@/api/types'
import FileValue from './FileValue.vue'
import { failure, format } from './fields'
import type { SurfaceSource } from '@/surface/source'

const props = defineProps<{ heading: Heading; value: unknown; source?: SurfaceSource }>()
const text = computed(() => format(props.heading, props.value))
/** The colours of a choice, beside its words. */
const chosen = computed(() =>
  props.heading.type === 'choice' || props.heading.type === 'several_choices'
    ? [props.value].flat().map((key) => ({
        key: String(key),
        colour: props.heading.choices?.find((c) => c.key === key)?.colour,
        text: format({ ...props.heading, type: 'choice' }, key),
      }))
    : [],
)
/** What is worked out need not be an address that may be followed. */
const link = computed(() => /^https?:\/\/[^\s/]/i.test(text.value))
const isFile = computed(() => ['picture', 'file'].includes(props.heading.type))
const address = computed(() => {
  const ref = props.value as Ref | null
  const object = props.heading.object
  return ref?.id && object && object !== 'person' && !isFile.value
    ? (props.source?.recordAddress(object, ref.id) ?? null)
    : null
})
</script>

<template>
  <span v-if="failure(value)" class="failed">{{ text }}</span>
  <FileValue
    v-else-if="isFile && value"
    :file="value as Ref"
    :picture="heading.type === 'picture'"
    @click.stop
  />
  <a v-else-if="address && source?.beside" :href="address" target="_blank" @click.stop>{{ text }}</a>
  <RouterLink v-else-if="address" :to="address" @click.stop>{{ text }}</RouterLink>
  <a
    v-else-if="heading.type === 'web_link' && link"
    :href="text"
    :target="heading.new_tab ? '_blank' : undefined"
    rel="noopener"
    @click.stop
    >{{ text }}</a
  >
  <a v-else-if="heading.type === 'email' && text" :href="'mailto:' + text" @click.stop>{{ text }}</a>
  <a v-else-if="heading.type === 'phone' && text" :href="'tel:' + text" @click.stop>{{ text }}</a>
  <template v-else-if="chosen.some((c) => c.colour)">
    <span v-for="(c, i) in chosen" :key="c.key" class="chosen"
      ><span v-if="c.colour" class="dot" :class="c.colour" aria-hidden="true" />{{ c.text
      }}{{ i < chosen.length - 1 ? ',' : '' }}</span
    >
  </template>
  <template v-else>{{ text }}</template>
</template>

<style scoped>
.chosen {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  margin-right: 0.4rem;
}
</style>
