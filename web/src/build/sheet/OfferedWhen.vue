<script setup lang="ts">
import KnownPicker from '../conditions/KnownPicker.vue'

/** The condition under which a part is there; always when there is none. */
defineProps<{ place: string }>()
const when = defineModel<string | undefined>({ required: true })
</script>

<template>
  <div class="row muted">
    offered when
    <KnownPicker
      :model-value="when ?? ''"
      :place="place"
      kind="yesno"
      label="Offered when"
      placeholder="always"
      @update:model-value="when = $event || undefined"
    />
  </div>
</template>
