<script setup lang="ts">
import { computed, ref, toRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { Answers } from '@/api/types'
import { usePage } from '@/surface/page'
import { useReactions } from '@/surface/reactions'
import SurfaceView from '@/surface/SurfaceView.vue'
import StillReading from '@/surface/StillReading.vue'
import { provideTabs } from '@/surface/tabs'
import { takenFrom, useEffects, useTabsInAddress } from './effects'
import PageSide from './PageSide.vue'
import RunDialog from './RunDialog.vue'

/** A page by its address, or within something else with what that hands it; bare where that says what it is about. */
const props = defineProps<{ name: string; taken?: Answers; bare?: boolean }>()
const effects = useEffects(false)
const route = useRoute()
const page = usePage(
  '/use',
  toRef(props, 'name'),
  effects.effect,
  () => props.taken ?? takenFrom(route.query),
)
const surface = ref<InstanceType<typeof SurfaceView> | null>(null)
const reactions = useReactions({ ...page.reacting, parts: () => surface.value?.around ?? null })
page.source.rowPressed = (part, row) => reactions.happens('row_pressed', part, row)
watch(() => [props.name, props.taken ? '' : JSON.stringify(takenFrom(route.query))].join(' '), page.open, {
  immediate: true,
})
// What opens beside something has no address of its own.
if (!props.taken || props.bare) provideTabs(useTabsInAddress())

function changed(part: string): void {
  void page.changed(part, surface.value!.answers())
  reactions.happens('changed', part)
}

function written(part?: string): void {
  void page.again()
  if (part) reactions.happens('written', part)
}

function over(): void {
  void page.again()
  reactions.happens('dialog_over')
}

/** A table that has the page to itself takes the height there is. */
const single = computed(() => {
  const all = (page.view.value?.bands ?? []).flatMap((b) => b.columns.flatMap((c) => c.parts))
  return all.filter((p) => p.table || p.form).length === 1 && !props.taken
})
</script>

<template>
  <component
    :is="taken ? 'div' : 'main'"
    :id="taken ? undefined : 'main'"
    class="page"
    :class="{ single, bare }"
  >
    <p v-if="page.failed.value" class="bad" role="alert">
      {{ page.failed.value }}
      <button type="button" class="plain link" @click="page.again()">Try again</button>
    </p>
    <StillReading :busy="page.busy.value" :what="page.reads()" @stop="page.stop" />
    <template v-if="page.view.value">
      <h1 v-if="!bare">{{ page.view.value.label }}</h1>
      <p v-if="page.view.value.note && !bare" class="muted">{{ page.view.value.note }}</p>
      <SurfaceView
        :key="page.view.value.key"
        ref="surface"
        place="surface"
        :bands="page.view.value.bands"
        :source="page.source"
        :problems="{}"
        @changed="changed"
        @pressed="(part) => reactions.happens('pressed', part)"
        @looked="page.looked"
        @edited="page.edited"
        @written="written"
        @read="page.read"
      />
    </template>
    <p v-if="reactions.holds.value" class="muted" role="status">{{ reactions.holds.value }}</p>
    <RunDialog v-model="effects.dialog.value" @over="over" />
    <PageSide v-model="effects.side.value" />
  </component>
</template>

<style scoped>
.page {
  padding: 1rem 1.4rem 2rem;
}
.bare {
  padding: 0;
}
.single {
  --table-height: max(24rem, calc(100vh - 17rem));
}
.page > h1 {
  margin-bottom: 0.7rem;
}
.page > p {
  margin: 0.2rem 0 0.9rem;
}
</style>
