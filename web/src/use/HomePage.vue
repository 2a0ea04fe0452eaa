<script setup lang="ts">
import { onMounted } from 'vue'
import { useDoing } from '@/api/doing'
import MenuPart from '@/surface/MenuPart.vue'
import type { SurfaceSource } from '@/surface/source'
import { useEffects } from './effects'
import { useMenu } from './menu'
import PagePage from './PagePage.vue'
import RunDialog from './RunDialog.vue'

/** What a person begins with: the page that a builder made for their role, or the list of what there is. */
const menu = useMenu()
const effects = useEffects(true)
const { failed, attempt } = useDoing()
const load = () => attempt(async () => void (await menu.load()))
onMounted(load)

const everything = { menu: { unfinished: true, pages: true, walkthroughs: true } }
const source: SurfaceSource = {
  base: '/use',
  at: () => ({}),
  options: () => Promise.resolve([]),
  recordAddress: (object, id) => `/use/record/${object}/${id}`,
  effect: effects.effect,
}
</script>

<template>
  <main id="main" :class="{ home: !menu.home?.home }">
    <p v-if="failed" class="bad" role="alert">
      {{ failed }} <button type="button" class="plain link" @click="load">Try again</button>
    </p>
    <PagePage v-if="menu.home?.home" :key="menu.home.home" :name="menu.home.home" :taken="{}" />
    <MenuPart v-else-if="menu.home" :part="everything" :source="source" />
    <RunDialog v-model="effects.dialog.value" />
  </main>
</template>

<style scoped>
.home {
  max-width: 46rem;
  margin: 2.5rem auto;
  padding: 0 1.2rem;
}
</style>
