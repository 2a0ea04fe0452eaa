<script setup lang="ts">
import { onMounted } from 'vue'
import { provideFiles } from '@/surface/files'
import { useBuild } from './build'
import ContentsList from './ContentsList.vue'

const build = useBuild()
provideFiles({ base: '/build/spaces/trial' })
onMounted(() => build.load())
</script>

<template>
  <div class="build">
    <ContentsList />
    <div id="main" class="middle">
      <RouterView v-if="build.contents" :key="$route.path" />
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
}
</style>
