<script setup lang="ts">
import { computed, ref } from 'vue'
import type { PartView } from '@/api/types'
import CellValue from '@/fields/CellValue.vue'
import { format } from '@/fields/fields'
import CopyButton from '@/frame/CopyButton.vue'
import LongText from './LongText.vue'
import type { SurfaceSource } from './source'

defineOptions({ inheritAttrs: false })
const props = defineProps<{ part: Pick<PartView, 'label' | 'details'>; source: SurfaceSource }>()
type Detail = NonNullable<PartView['details']>[number]

/** Of many fields so many are shown at first; the rest is a press away. */
const first = 12
const all = ref(false)
const more = computed(() => Math.max((props.part.details?.length ?? 0) - first, 0))
const shown = computed(() =>
  all.value || more.value < 3 ? (props.part.details ?? []) : (props.part.details ?? []).slice(0, first),
)

/** What people carry elsewhere: numbers, addresses, telephones; not what is a word or two to read. */
const carried = ['text', 'running_number', 'email', 'phone', 'web_link', 'address', 'long_text']
const copies = (d: Detail) => d.value !== null && carried.includes(d.heading.type)
</script>

<template>
  <section>
    <h2 v-if="part.label">{{ part.label }}</h2>
    <dl>
      <template v-for="d in shown" :key="d.heading.path">
        <dt>{{ d.heading.label }}</dt>
        <dd>
          <span v-if="d.value === null" class="muted">—</span>
          <LongText v-else-if="d.heading.type === 'long_text'" :text="format(d.heading, d.value)" />
          <CellValue v-else :heading="d.heading" :value="d.value" :source="source" />
          <CopyButton
            v-if="copies(d)"
            class="copy"
            :text="format(d.heading, d.value)"
            :what="d.heading.label"
          />
        </dd>
      </template>
    </dl>
    <button v-if="more >= 3" type="button" class="plain link" :aria-expanded="all" @click="all = !all">
      {{ all ? 'Show less' : `Show ${more} more` }}
    </button>
  </section>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: minmax(8rem, max-content) 1fr;
  gap: 0.3rem 1.4rem;
  margin: 0.5rem 0 0;
}
dt {
  color: var(--muted);
}
dd {
  --picture: 72px;
  margin: 0;
  min-width: 0;
  overflow-wrap: anywhere;
  white-space: pre-line;
  font-variant-numeric: tabular-nums;
}
.copy {
  margin: -0.4rem 0 -0.4rem 0.2rem;
  opacity: 0;
}
dd:hover > .copy,
.copy:focus-visible {
  opacity: 1;
}
@media (hover: none) {
  .copy {
    opacity: 0.7;
  }
}
.link {
  margin-top: 0.4rem;
}
</style>
