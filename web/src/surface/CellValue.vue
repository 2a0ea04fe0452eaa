<script setup lang="ts">
import { computed } from 'vue'
import type { Heading, Ref } from '@/api/types'
import { format } from './format'
import type { SurfaceSource } from './source'

const props = defineProps<{ heading: Heading; value: unknown; source?: SurfaceSource }>()
const text = computed(() => format(props.heading, props.value))
const address = computed(() => {
  const ref = props.value as Ref | null
  const object = props.heading.object
  return ref?.id && object && object !== 'person'
    ? (props.source?.recordAddress(object, ref.id) ?? null)
    : null
})
</script>

<template>
  <a v-if="address && source?.beside" :href="address" target="_blank" @click.stop>{{ text }}</a>
  <RouterLink v-else-if="address" :to="address" @click.stop>{{ text }}</RouterLink>
  <a
    v-else-if="heading.type === 'web_link' && text"
    :href="text"
    target="_blank"
    rel="noopener"
    @click.stop
    >{{ text }}</a
  >
  <a v-else-if="heading.type === 'email' && text" :href="'mailto:' + text" @click.stop>{{ text }}</a>
  <a v-else-if="heading.type === 'phone' && text" :href="'tel:' + text" @click.stop>{{ text }}</a>
  <template v-else>{{ text }}</template>
</template>
