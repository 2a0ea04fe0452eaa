<script setup lang="ts">
import MultiSelect from 'primevue/multiselect'
import { computed } from 'vue'
import type { Page } from '@/api/types'
import { useBuild } from '../build'
import { drop, put } from '../document'
import { useSheet } from '../sheet/context'

/** Who begins with the page when they come to Use. */
const props = defineProps<{ page: Page }>()
const build = useBuild()
const sheet = useSheet()
const roles = computed(() =>
  (build.contents?.documents ?? []).filter((d) => d.kind === 'role' && props.page.roles.includes(d.key)),
)

function choose(home: string[]): void {
  if (home.length) void sheet.edit(put('/home', home))
  else if (props.page.home) void sheet.edit(drop('/home'))
}
</script>

<template>
  <div v-if="!page.record" class="row">
    Those who begin with it:
    <MultiSelect
      :model-value="page.home ?? []"
      :options="roles"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="nobody"
      aria-label="Who begins with the page"
      @update:model-value="choose"
    />
  </div>
</template>
