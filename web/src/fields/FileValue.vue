<script setup lang="ts">
import { IconFile } from '@tabler/icons-vue'
import { computed } from 'vue'
import type { Ref } from '@/api/types'
import { useFiles } from './files'

/** A file that a record holds; a picture is shown small. */
const props = defineProps<{ file: Ref; picture?: boolean }>()
const files = useFiles()
const address = computed(() => files.address(props.file.id))
</script>

<template>
  <a :href="address" target="_blank" rel="noopener" class="file" :title="picture ? file.label : undefined">
    <img
      v-if="picture"
      :src="files.address(file.id, '/preview')"
      :alt="file.label"
      decoding="async"
      class="picture"
    />
    <template v-else><IconFile :size="15" aria-hidden="true" />{{ file.label }}</template>
  </a>
</template>

<style scoped>
.file {
  display: inline-flex;
  vertical-align: top;
  align-items: center;
  gap: 0.25rem;
}
.picture {
  display: block;
  /* The room it takes is known before it is there. */
  width: var(--picture, 28px);
  height: var(--picture, 28px);
  object-fit: contain;
  object-position: left;
  border-radius: 3px;
}
</style>
