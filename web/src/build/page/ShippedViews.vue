<script setup lang="ts">
import MultiSelect from 'primevue/multiselect'
import { computed } from 'vue'
import type { ShippedView } from '@/api/types'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useBuild } from '../build'
import TextSlot from '../sheet/TextSlot.vue'

/** The views a builder gives to roles. They are arranged on the live table. */
const { where = 'above' } = defineProps<{ where?: string }>()
const views = defineModel<ShippedView[]>({ required: true })
const build = useBuild()
const roles = computed(() => build.contents?.documents.filter((d) => d.kind === 'role') ?? [])

function change(i: number, some: Partial<ShippedView>): void {
  views.value = views.value.map((v, n) => (n === i ? { ...v, ...some } : v))
}
</script>

<template>
  <div v-for="(v, i) in views" :key="i" class="row view">
    view
    <TextSlot
      :model-value="v.label"
      label="Name of the view"
      @update:model-value="change(i, { label: $event })"
    />
    for
    <MultiSelect
      :model-value="v.roles ?? []"
      :options="roles"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="everybody"
      aria-label="Who gets the view"
      @update:model-value="change(i, { roles: $event.length ? $event : undefined })"
    />
    <RemoveButton :label="'Remove the view ' + v.label" @press="views = views.filter((_, n) => n !== i)" />
  </div>
  <p class="muted">Arrange the table {{ where }} and keep it under “Views” to give it to others.</p>
</template>

<style scoped>
.view {
  margin-top: 0.3rem;
}
p {
  margin: 0.3rem 0;
}
</style>
