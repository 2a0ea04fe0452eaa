<script setup lang="ts">
import { IconChevronDown, IconChevronRight } from '@tabler/icons-vue'
import { useStorage } from '@vueuse/core'
import Tab from 'primevue/tab'
import TabList from 'primevue/tablist'
import TabPanel from 'primevue/tabpanel'
import TabPanels from 'primevue/tabpanels'
import Tabs from 'primevue/tabs'
import { computed, useId, watch } from 'vue'
import type { BandView, ColumnView } from '@/api/types'
import { useTabs } from './tabs'

/** A band: its columns side by side or as tabs, all of it folded where somebody wants it so. */
const props = defineProps<{
  band: BandView
  /** The name under which it is remembered that it was folded. */
  name: string
  /** The part that has all the room, if one has. */
  alone: string
  /** The parts that are to be seen: the one a builder has chosen, or what is wrong. */
  seen: string[]
}>()
const id = useId()
const holds = (c: ColumnView, key: string) => c.parts.some((p) => p.key === key)
const there = (c: ColumnView) => !props.alone || holds(c, props.alone)

const tab = useTabs(() => (props.band.stands === 'tabs' ? props.band.columns.map((c) => c.title ?? '') : []))

const folds = computed(() => props.band.stands === 'folded' || props.band.stands === 'unfolded')
const remembered = useStorage<Record<string, boolean>>('plainpath.folded', {})
const folded = computed({
  get: () => folds.value && !props.alone && (remembered.value[props.name] ?? props.band.stands === 'folded'),
  set: (is) => (remembered.value = { ...remembered.value, [props.name]: is }),
})

// What is to be seen is not left behind another tab, or in a fold.
watch(
  () => props.seen.join(' '),
  () => {
    const seen = props.seen
    const at = props.band.columns.findIndex((c) => seen.some((key) => holds(c, key)))
    if (at < 0) return
    if (folded.value) folded.value = false
    const open = props.band.columns[tab.value]
    if (props.band.stands === 'tabs' && !seen.some((key) => open && holds(open, key))) tab.value = at
  },
  { immediate: true },
)

const tracks = computed(() => {
  const columns = props.band.columns.filter(there)
  return columns.map((c) => `minmax(0, ${c.width}fr)`).join(' ') || 'none'
})
const figures = computed(() => props.band.columns.every((c) => c.parts.every((p) => p.figure)))
</script>

<template>
  <section v-show="!alone || band.columns.some(there)" class="band">
    <template v-if="band.title && !alone">
      <h2 v-if="!folds">{{ band.title }}</h2>
      <h2 v-else>
        <button
          type="button"
          class="plain fold"
          :aria-expanded="!folded"
          :aria-controls="id"
          @click="folded = !folded"
        >
          <IconChevronRight v-if="folded" :size="18" aria-hidden="true" />
          <IconChevronDown v-else :size="18" aria-hidden="true" />
          {{ band.title }}
        </button>
      </h2>
    </template>
    <slot name="beside" />
    <Tabs v-if="band.stands === 'tabs'" v-model:value="tab">
      <TabList v-show="!alone">
        <Tab v-for="(column, j) in band.columns" :key="j" :value="j">{{ column.title }}</Tab>
      </TabList>
      <TabPanels>
        <TabPanel v-for="(column, j) in band.columns" :key="j" :value="j">
          <div class="column">
            <slot :column="column" :at="j" />
          </div>
        </TabPanel>
      </TabPanels>
    </Tabs>
    <div
      v-else
      v-show="!folded"
      :id="id"
      class="columns"
      :class="{ figures }"
      :style="{ '--tracks': tracks, '--columns': band.columns.length }"
    >
      <div v-for="(column, j) in band.columns" v-show="there(column)" :key="j" class="column">
        <slot :column="column" :at="j" />
      </div>
    </div>
  </section>
</template>

<style scoped>
.band {
  container-type: inline-size;
  margin-bottom: 1.4rem;
}
.columns {
  display: grid;
  grid-template-columns: var(--tracks);
  gap: 1.5rem;
}
.column {
  display: flex;
  flex-direction: column;
  gap: 1.1rem;
  min-width: 0;
}
.band :deep(.p-tab) {
  font: inherit;
  padding: 0.45rem 0.9rem;
}
.band :deep(.p-tabpanels) {
  padding: 0.9rem 0 0;
}
.columns:not(:first-child) {
  margin-top: 0.6rem;
}
.fold {
  display: flex;
  align-items: center;
  gap: 0.3rem;
  margin-left: -0.2rem;
}
@container (max-width: 34rem) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
  .columns.figures {
    grid-template-columns: repeat(min(2, var(--columns)), minmax(0, 1fr));
  }
}
</style>
