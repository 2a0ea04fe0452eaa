import { useToast } from 'primevue/usetoast'
import type { Effect } from '@/api/types'
import { useBuild } from './build'

/** What would open in Use is said in Build, where it does not open. */
export function useInUse(): (e: Effect) => void {
  const build = useBuild()
  const toast = useToast()

  function opened(e: Effect): string {
    const [kind, key] = e.page ? ['page', e.page] : ['walkthrough', e.walkthrough]
    if (e.link) return e.link
    if (e.kind === 'open' && !e.page) return 'the record'
    return `“${build.contents?.documents.find((d) => d.kind === kind && d.key === key)?.label ?? key}”`
  }

  return (e) =>
    toast.add({
      severity: 'info',
      summary: `In Use ${opened(e)} opens`,
      detail: e.hand ? 'It is handed: ' + JSON.stringify(e.hand) : undefined,
      life: 6000,
    })
}
