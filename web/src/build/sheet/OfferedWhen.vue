<script setup lang="ts">
import { computed } from 'vue'
import { capital } from '../keys'
import KnownPicker from '../conditions/KnownPicker.vue'

/** The condition under which a part is there, or something is done; always when there is none. */
const props = defineProps<{ place: string; words?: string }>()
const words = computed(() => props.words ?? 'offered when')
const when = defineModel<string | undefined>({ required: true })
</script>

<template>
  <div class="row muted">
    {{ words }}
    <KnownPicker
      :model-value="when ?? ''"
      :place="place"
      kind="yesno"
      :label="capital(words)"
      placeholder="always"
      @update:model-value="when = $event || undefined"
    />
  </div>
</template>
