import { useConfirm } from 'primevue/useconfirm'
import { useToast } from 'primevue/usetoast'
import { useRouter } from 'vue-router'
import { api, given, titleOf } from '@/api/client'
import { useBuild } from './build'
import { documents, type DocumentKind } from './documents'
import { usesOf, usesOfDocument } from './object/uses'

/** Takes a document out of the draft, after saying what would break without it. */
export function useTakingAway(kind: DocumentKind, key: () => string): (label: string) => Promise<void> {
  const build = useBuild()
  const confirm = useConfirm()
  const toast = useToast()
  const router = useRouter()
  const sorry = (error: unknown) =>
    toast.add({ severity: 'error', summary: 'Not removed', detail: titleOf(error), life: 10000 })

  async function take(label: string): Promise<void> {
    try {
      await given(api.DELETE('/build/documents/{kind}/{key}', { params: { path: { kind, key: key() } } }))
      await router.push('/build')
      await build.load()
      toast.add({
        severity: 'info',
        summary: `${label} was removed`,
        detail: 'It stands under “Removed” on this page, from where it comes back.',
        life: 8000,
      })
    } catch (error) {
      sorry(error)
    }
  }

  return async (label) => {
    let breaks: string[]
    try {
      const uses = await usesOfDocument(kind, key())
      breaks = usesOf(build, uses).map((u) => u.label + (u.words ? ` (${u.words})` : ''))
    } catch (error) {
      sorry(error)
      return
    }
    const broken = breaks.length ? `This would break: ${breaks.join('; ')}.` : 'Nothing else uses it.'
    const stored = documents[kind].removed ? ' ' + documents[kind].removed : ''
    confirm.require({
      defaultFocus: 'reject',
      header: `Take ${label} away?`,
      message: `${broken}${stored} It can be brought back.`,
      acceptLabel: 'Remove it',
      rejectLabel: 'Keep it',
      rejectProps: { outlined: true },
      accept: () => void take(label),
    })
  }
}
