import { onMounted, ref, shallowRef } from 'vue'
import { titleOf } from '@/api/client'

/** What a row opens to is read when it opens, and again when that failed. */
export function useOpening<T>(read: () => Promise<T>) {
  const found = shallowRef<T | null>(null)
  const failed = ref('')

  async function load(): Promise<void> {
    failed.value = ''
    try {
      found.value = await read()
    } catch (error) {
      failed.value = titleOf(error)
    }
  }
  onMounted(load)
  return { found, failed, load }
}

export type Opening = Pick<ReturnType<typeof useOpening>, 'failed' | 'load'>
