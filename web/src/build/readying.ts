import { useIntervalFn } from '@vueuse/core'
import { ref, watch, type Ref } from 'vue'
import { api, given } from '@/api/client'

/** How far stored records are written anew while a change takes long; '' when it does not. */
export function useReadying(busy: Ref<boolean>): Ref<string> {
  const words = ref('')
  const { pause, resume } = useIntervalFn(
    async () => {
      const found = await given(api.GET('/build/readying')).catch(() => [])
      if (!busy.value) return
      words.value = found
        .map(
          (r) => `${r.what}: ${r.done.toLocaleString()} of ${r.total.toLocaleString()} records written anew`,
        )
        .join('; ')
    },
    1500,
    { immediate: false },
  )
  watch(
    busy,
    (is) => {
      words.value = ''
      if (is) resume()
      else pause()
    },
    { immediate: true },
  )
  return words
}
