<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import type { PartView } from '@/api/types'
import { say } from './sentence'

// Most texts are a line or two; what reads marks is loaded with the first that has any.
const RichText = defineAsyncComponent(() => import('./RichText'))

defineOptions({ inheritAttrs: false })
const props = defineProps<{ part: PartView }>()
const marks = /(^|\n) {0,3}(#{1,6} |[-*+] |\d{1,9}[.)] |> )|\*\*|\]\(|`|(^|\s)[*_]\S/
const rich = computed(() =>
  (props.part.text ?? []).some((p) => !p.type && !p.given && marks.test(p.text ?? '')),
)
</script>

<template>
  <RichText v-if="rich" :sentence="part.text ?? []" />
  <p v-else>{{ say(part.text) }}</p>
</template>

<style scoped>
p {
  margin: 0;
  white-space: pre-line;
}
.rich > :deep(*) {
  margin: 0 0 0.6rem;
}
.rich > :deep(:last-child) {
  margin-bottom: 0;
}
.rich :deep(li) {
  margin: 0.15rem 0;
}
.rich :deep(li > p) {
  margin: 0;
}
.rich :deep(ul),
.rich :deep(ol) {
  padding-left: 1.4rem;
}
.rich :deep(blockquote) {
  margin-left: 0;
  padding-left: 0.9rem;
  border-left: 3px solid var(--line);
  color: var(--muted);
}
.rich :deep(p) {
  white-space: pre-line;
}
.rich :deep(:is(p, li, h2, h3, h4)) {
  overflow-wrap: anywhere;
}
</style>
