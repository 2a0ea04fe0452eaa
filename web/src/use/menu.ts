import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, given } from '@/api/client'
import type { Home } from '@/api/types'

/** What the person who is signed in finds in Use. */
export const useMenu = defineStore('menu', () => {
  const home = ref<Home | null>(null)
  async function load(): Promise<Home> {
    home.value = await given(api.GET('/use/home'))
    return home.value
  }
  const pages = computed(() => (home.value?.menu ?? []).flatMap((g) => g.pages))
  return { home, pages, load }
})
