<script setup lang="ts">
import Select from 'primevue/select'
import { computed } from 'vue'
import type { Page } from '@/api/types'
import { useBuild } from '../build'
import { drop, put } from '../document'
import { useSheet } from '../sheet/context'
import OfferedWhen from '../sheet/OfferedWhen.vue'

/** Whether the page is how records of an object are seen, and which of them. */
const props = defineProps<{ page: Page }>()
const build = useBuild()
const sheet = useSheet()
const none = ''
const objects = computed(() => [
  { key: none, label: 'a page of its own' },
  ...(build.contents?.objects ?? []).map((o) => ({
    key: o.key,
    label: `how ${o.plural.toLowerCase()} are seen`,
  })),
])

function choose(object: string): void {
  if (object) void sheet.edit(put('/record', { object }))
  else if (props.page.record) void sheet.edit(drop('/record'))
}
</script>

<template>
  <div class="row">
    This is
    <Select
      :model-value="page.record?.object ?? none"
      :options="objects"
      option-label="label"
      option-value="key"
      filter
      size="small"
      aria-label="What the page is"
      @update:model-value="choose"
    />
    <OfferedWhen
      v-if="page.record"
      words="those where"
      place=""
      :model-value="page.record.when"
      @update:model-value="sheet.edit($event ? put('/record/when', $event) : drop('/record/when'))"
    />
  </div>
</template>
