import { useConfirm } from 'primevue/useconfirm'
import { useToast } from 'primevue/usetoast'
import { titleOf } from '@/api/client'
import type { Finding } from '@/api/types'
import { useBuild } from './build'
import { usesOf, usesOfDocument } from './object/uses'

/**
 * Whether something may be removed from a document: what other things need is asked about
 * first, with what would break.
 */
export function useRemoval(kind: string, key: () => string): Removal {
  const build = useBuild()
  const confirm = useConfirm()
  const toast = useToast()

  return async (pointer, label) => {
    let breaks: Finding[]
    try {
      breaks = await usesOfDocument(kind, key(), pointer)
    } catch (error) {
      toast.add({ severity: 'error', summary: 'Not removed', detail: titleOf(error), life: 8000 })
      return false
    }
    if (!breaks.length) return true
    const places = usesOf(build, breaks).map((u) => u.label + (u.words ? ` (${u.words})` : ''))
    return new Promise((done) =>
      confirm.require({
        defaultFocus: 'reject',
        header: `Remove ${label}?`,
        message: `This would break: ${places.join('; ')}. ${breaks[0].text[0].toUpperCase()}${breaks[0].text.slice(1)}. Undo brings it back.`,
        acceptLabel: 'Remove it',
        rejectLabel: 'Keep it',
        rejectProps: { outlined: true },
        accept: () => done(true),
        reject: () => done(false),
        onHide: () => done(false),
      }),
    )
  }
}

export type Removal = (pointer: string, label: string) => Promise<boolean>
