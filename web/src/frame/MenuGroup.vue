<script setup lang="ts">
import { IconChevronDown } from '@tabler/icons-vue'
import Menu from 'primevue/menu'
import { computed, ref, useId } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { MenuShown } from '@/api/types'
import { icons } from './icons'

/** Pages of the menu that are found below one word. */
const props = defineProps<{ group: MenuShown }>()
const route = useRoute()
const router = useRouter()
const id = useId()
const menu = ref<InstanceType<typeof Menu> | null>(null)
const open = ref(false)
const address = (key: string) => '/use/page/' + key
const items = computed(() =>
  props.group.pages.map((p) => ({
    label: p.label,
    command: () => void router.push(address(p.key)),
  })),
)
const here = computed(() => props.group.pages.some((p) => route.path === address(p.key)))
</script>

<template>
  <button
    type="button"
    class="plain group"
    :class="{ here }"
    aria-haspopup="menu"
    :aria-expanded="open"
    :aria-controls="id"
    @click="menu?.toggle($event)"
  >
    <component :is="icons[group.icon]" v-if="group.icon" :size="16" aria-hidden="true" />
    {{ group.label }}
    <IconChevronDown :size="14" aria-hidden="true" />
  </button>
  <Menu :id="id" ref="menu" popup :model="items" @show="open = true" @hide="open = false" />
</template>
