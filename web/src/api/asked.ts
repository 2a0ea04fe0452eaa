import { keepPreviousData, QueryClient, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { seenAs, titleOf } from './client'

/** What was read, kept for a while: it is shown at once when it is asked for again, and read anew. */
export const kept = new QueryClient({
  defaultOptions: {
    // Requests are sent again where that helps, and what changes is told, below this.
    queries: { retry: false, networkMode: 'always', refetchOnWindowFocus: false, refetchOnReconnect: false },
  },
})

interface Options {
  /** It is asked for only then. */
  when?: () => boolean
  /** Nothing of it is kept: it counts only as it is just now. */
  fresh?: boolean
  /** What was found before is shown until what is asked for now is there. */
  lasting?: boolean
}

/**
 * Something that is read, by what it is called: when that changes it is asked for anew, and the older question
 * is given up, by the server as well.
 */
export function useAsked<T>(
  name: () => unknown[],
  read: (signal: AbortSignal) => Promise<T>,
  options: Options = {},
) {
  const query = useQuery({
    queryKey: computed(() => [seenAs(), ...name()]),
    queryFn: ({ signal }) => read(signal),
    enabled: computed(() => options.when?.() ?? true),
    ...(options.fresh ? { gcTime: 0 } : {}),
    ...(options.lasting ? { placeholderData: keepPreviousData } : {}),
  })
  /** What was found, undefined until it is and where it could not be read. */
  const found = computed(() => (query.error.value ? undefined : query.data.value)) as Ref<T | undefined>
  const failed = computed(() => (query.error.value ? titleOf(query.error.value) : ''))
  const again = async (): Promise<void> => void (await query.refetch())
  return { found, failed, reading: query.isFetching, again }
}
