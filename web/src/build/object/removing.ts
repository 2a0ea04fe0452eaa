import { useConfirm } from 'primevue/useconfirm'
import { titleOf } from '@/api/client'
import type { RecordFormState } from '@/surface/form/form'
import type { Records } from './records'

/** Asks before a record is taken out; what stands in the way is said on its form. */
export function useRemoving(records: Records, form: RecordFormState, removed: () => Promise<void>) {
  const confirm = useConfirm()
  return () => {
    const record = form.view.value
    if (!record) return
    confirm.require({
      defaultFocus: 'reject',
      header: `Remove ${record.label}?`,
      message: 'The record is taken out of trial. Its history stays.',
      acceptLabel: 'Remove',
      rejectLabel: 'Keep it',
      rejectProps: { outlined: true },
      accept: async () => {
        try {
          await records.remove(record.id)
          await removed()
        } catch (error) {
          form.failed.value = titleOf(error)
        }
      },
    })
  }
}
