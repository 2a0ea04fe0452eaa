<script setup lang="ts">
import Button from 'primevue/button'
import Select from 'primevue/select'
import { computed } from 'vue'
import type { MenuGroupDef, MenuIcon } from '@/api/types'
import { icons } from '@/frame/icons'
import RemoveButton from '@/frame/RemoveButton.vue'
import { useBuild } from './build'
import { drop, moved, put, type Edit } from './document'
import MoveButtons from './MoveButtons.vue'
import OrderedTags from './OrderedTags.vue'
import TextSlot from './sheet/TextSlot.vue'

/** The menu of Use: groups of pages in their order. */
const props = defineProps<{ groups: MenuGroupDef[]; edit: Edit }>()
const build = useBuild()
const names = Object.keys(icons) as MenuIcon[]
const pages = computed(() => (build.contents?.documents ?? []).filter((d) => d.kind === 'page'))
const label = (key: string) => pages.value.find((p) => p.key === key)?.label ?? key
const free = computed(() => pages.value.filter((p) => !props.groups.some((g) => g.pages.includes(p.key))))

function set(i: number, some: Partial<MenuGroupDef>): void {
  void props.edit(
    put(
      '/menu',
      props.groups.map((g, n) => (n === i ? { ...g, ...some } : g)),
    ),
  )
}

function add(): void {
  void props.edit(put('/menu', [...props.groups, { label: 'New group', pages: [] }]))
}

function remove(i: number): void {
  void props.edit(props.groups.length > 1 ? drop(`/menu/${i}`) : drop('/menu'))
}
</script>

<template>
  <div v-for="(group, i) in groups" :key="i" class="row">
    <Select
      :model-value="group.icon ?? null"
      :options="names"
      size="small"
      show-clear
      placeholder="no icon"
      :aria-label="`Icon of group ${i + 1}`"
      @update:model-value="set(i, { icon: $event ?? undefined })"
    >
      <template #value="{ value }">
        <component :is="icons[value as MenuIcon]" v-if="value" :size="16" aria-hidden="true" />
        <span v-else class="muted">no icon</span>
      </template>
      <template #option="{ option }">
        <component :is="icons[option as MenuIcon]" :size="16" aria-hidden="true" />&nbsp;{{ option }}
      </template>
    </Select>
    <TextSlot
      :model-value="group.label ?? ''"
      :label="`Name of group ${i + 1}`"
      placeholder="no name: its pages stand in the menu"
      @update:model-value="set(i, { label: $event || undefined })"
    />
    <OrderedTags
      :model-value="group.pages"
      :key-of="(key) => key"
      :name="label"
      presses="Page"
      removes="Leave out"
      @update:model-value="set(i, { pages: $event })"
    />
    <Select
      :model-value="null"
      :options="free"
      option-label="label"
      option-value="key"
      filter
      size="small"
      placeholder="+ a page"
      :aria-label="`Add a page to group ${i + 1}`"
      @update:model-value="set(i, { pages: [...group.pages, $event] })"
    />
    <MoveButtons
      :what="`group ${i + 1}`"
      :first="i === 0"
      :last="i === groups.length - 1"
      @move="edit(moved('/menu', i, i + $event))"
    />
    <RemoveButton :label="`Remove group ${i + 1}`" @press="remove(i)" />
  </div>
  <p class="muted">
    Pages of which nothing is said stand behind, by name. Everybody sees those that they may open.
  </p>
  <Button text size="small" label="+ a group" @click="add" />
</template>
