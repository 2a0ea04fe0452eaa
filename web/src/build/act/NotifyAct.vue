<script setup lang="ts">
import MultiSelect from 'primevue/multiselect'
import { computed } from 'vue'
import type { Notify } from '@/api/types'
import { useBuild } from '../build'
import KnownPicker from '../conditions/KnownPicker.vue'
import SentenceSlot from '../sheet/SentenceSlot.vue'

/** Tells people something: those of roles, those that a known value gives, or both. */
defineProps<{ place: string }>()
const notify = defineModel<Notify>({ required: true })
const build = useBuild()
const roles = computed(() => build.contents?.documents.filter((d) => d.kind === 'role') ?? [])
</script>

<template>
  <div class="row">
    Tell everybody who is
    <MultiSelect
      :model-value="notify.roles ?? []"
      :options="roles"
      option-label="label"
      option-value="key"
      size="small"
      placeholder="no role"
      aria-label="Roles that are told"
      @update:model-value="notify = { ...notify, roles: $event.length ? $event : undefined }"
    />
    and
    <KnownPicker
      :model-value="notify.people ?? ''"
      :place="place"
      kind="records"
      object="person"
      label="Who else is told"
      placeholder="nobody else; or a person"
      @update:model-value="notify = { ...notify, people: $event || undefined }"
    />
  </div>
  <SentenceSlot
    long
    :place="place"
    :model-value="notify.text"
    label="What they are told"
    @update:model-value="notify = { ...notify, text: $event }"
  />
  <div class="row">
    and it leads to
    <KnownPicker
      :model-value="notify.record ?? ''"
      :place="place"
      kind="record"
      label="What it leads to"
      placeholder="nothing; or a record"
      @update:model-value="notify = { ...notify, record: $event || undefined }"
    />
  </div>
</template>
