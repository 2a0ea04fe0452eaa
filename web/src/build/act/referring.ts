import { computed } from 'vue'
import { useAsked } from '@/api/asked'
import { api, given } from '@/api/client'
import { useBuild } from '../build'

/** What refers to the records of an object, in words and with how many there are. */
export function useReferring(object: () => string) {
  const build = useBuild()
  const { found } = useAsked(
    () => ['referring', object()],
    (signal) =>
      given(
        api.GET('/build/spaces/{space}/objects/{object}/referring', {
          params: { path: { space: 'trial', object: object() } },
          signal,
        }),
      ),
    { when: () => !!object() },
  )
  return computed(() => {
    const all = build.referrers(object())
    return all.map(({ object: from, field }) => {
      const several = all.filter((r) => r.object.key === from.key).length > 1
      const count = found.value?.find((c) => c.object === from.key && c.field === field.key)
      return {
        key: from.key + '.' + field.key,
        object: from,
        field,
        label: from.plural.toLowerCase() + (several ? ` by ${field.label}` : ''),
        count,
      }
    })
  })
}
