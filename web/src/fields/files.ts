import { inject, provide, ref, type InjectionKey, type Ref } from 'vue'
import { bytes, given, seated, seenAs, type Base } from '@/api/client'
import type { FileView } from '@/api/types'
import { sendParts } from '@/api/upload'

/** Where files are kept, and for whom they are given in a rehearsal. */
export interface FilePlace {
  base: Base
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
  const at = inject<FilePlace>(place, { base: '/use' })
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
    const server = seated(at.base)
    const body = { name: file.name, size: file.size, as: person || undefined }
    const begun = await given(server.POST('/files', { body }))
    const part = (part: number, piece: Blob) =>
      given(
        server.PUT('/files/{id}/parts/{part}', {
          params: { path: { id: begun.id, part }, query: person ? { as: person } : {} },
          ...bytes(piece),
        }),
      )
    return (await sendParts(file, part, told)) ?? begun
  }

  return { address, send }
}
