import { inject, provide, ref, type InjectionKey, type Ref } from 'vue'
import { api, seenAs } from '@/api/client'
import type { FileView } from '@/api/types'
import { sendParts } from '@/api/upload'

/** Where files are kept, and for whom they are given in a rehearsal. */
export interface FilePlace {
  base: string
  as?: () => number
}

const place: InjectionKey<FilePlace> = Symbol('files')

/** Says where the parts below this one keep their files; in Use it is production. */
export function provideFiles(at: FilePlace): void {
  provide(place, at)
}

const sending: InjectionKey<Ref<number>> = Symbol('sending')

/** How many files of the inputs below are still being sent: what holds them must wait. */
export function trackSending(): Ref<number> {
  const n = ref(0)
  provide(sending, n)
  return n
}

export function useFiles() {
  const at = inject(place, { base: '/use' })
  const underWay = inject(sending, ref(0))
  const as = (): number => at.as?.() ?? 0

  /** The address of a file for the browser itself, which sends no headers of ours. */
  function address(id: number, tail = ''): string {
    const eyes = seenAs() || as()
    return `/api${at.base}/files/${id}${tail}` + (eyes ? `?see_as=${eyes}` : '')
  }

  /** Sends a file; what comes back is what a record holds of it. */
  async function send(file: File, told: (sent: number) => void): Promise<FileView> {
    underWay.value++
    try {
      return await sendAll(file, told)
    } finally {
      underWay.value--
    }
  }

  async function sendAll(file: File, told: (sent: number) => void): Promise<FileView> {
    const person = as()
    const begun = await api.post<FileView>(`${at.base}/files`, {
      name: file.name,
      size: file.size,
      as: person || undefined,
    })
    const where = (part: number) =>
      `${at.base}/files/${begun.id}/parts/${part}` + (person ? `?as=${person}` : '')
    return (await sendParts<FileView>(file, where, told)) ?? begun
  }

  return { address, send }
}
