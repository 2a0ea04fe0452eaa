import { useId } from 'vue'
import { useAsked } from '@/api/asked'

/** What a row opens to is read when it opens, and again when that failed. */
export function useOpening<T>(read: () => Promise<T>) {
  const id = useId()
  return useAsked(() => ['opening', id], read, { fresh: true })
}

export type Opening = Pick<ReturnType<typeof useOpening>, 'failed' | 'again'>
