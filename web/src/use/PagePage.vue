<script setup lang="ts">
import { ref, toRef, watch } from 'vue'
import { usePage } from '@/surface/page'
import SurfaceView from '@/surface/SurfaceView.vue'

const props = defineProps<{ name: string }>()
const page = usePage('/use', toRef(props, 'name'))
const surface = ref<InstanceType<typeof SurfaceView> | null>(null)
watch(() => props.name, page.open, { immediate: true })
</script>

<template>
  <main id="main" class="page">
    <p v-if="page.failed.value" class="bad" role="alert">
      {{ page.failed.value }}
      <button type="button" class="plain link" @click="page.again()">Try again</button>
    </p>
    <template v-if="page.view.value">
      <h1>{{ page.view.value.label }}</h1>
      <p v-if="page.view.value.note" class="muted">{{ page.view.value.note }}</p>
      <SurfaceView
        ref="surface"
        :screen="name"
        :bands="page.view.value.bands"
        :source="page.source"
        :problems="{}"
        @changed="(part) => page.changed(part, surface!.answers())"
      />
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 1rem 1.4rem 2rem;
}
.page > p {
  margin: 0.2rem 0 0.9rem;
}
</style>
