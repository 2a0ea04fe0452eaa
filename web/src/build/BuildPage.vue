<script setup lang="ts">
import { useToast } from 'primevue/usetoast'
import { onMounted, watch } from 'vue'
import { useDoing } from '@/api/doing'
import { provideFiles } from '@/fields/files'
import { useBuild } from './build'
import ContentsList from './ContentsList.vue'
import { useDrafts } from './drafts'
import ReadFailed from './ReadFailed.vue'

const build = useBuild()
provideFiles({ base: '/build/spaces/trial' })
const { failed, attempt } = useDoing()
const load = () => attempt(build.load)
onMounted(load)
const toast = useToast()
const drafts = useDrafts()
drafts.takeUp()
watch(
  () => drafts.told,
  (told) => {
    if (!told.length) return
    drafts.told = []
    for (const one of told) toast.add({ ...one, life: 12000 })
  },
  { immediate: true },
)
</script>

<template>
  <div class="build">
    <ContentsList />
    <div id="main" class="middle">
      <RouterView v-if="build.contents" :key="$route.path" />
      <ReadFailed v-else-if="failed" :words="failed" @again="load" />
    </div>
  </div>
</template>

<style scoped>
.build {
  display: grid;
  grid-template-columns: 12.5rem minmax(0, 1fr);
  height: calc(100vh - 45px - var(--seen, 0px));
}
.middle {
  min-width: 0;
  overflow: auto;
  /* What is placed freely in it scrolls with it. */
  position: relative;
}
</style>
