import { counts, given, seated, seenAs } from '@/api/client'
import { counted } from '@/api/counted'
import type { Arrangement, CellText, Editing, Look, OutAsk, RowSaving, Touched } from '@/api/types'
import type { chosenOf } from '../selection'
import type { SurfaceSource } from '../source'

/** What is asked about one table. */
export function asking(
  source: () => SurfaceSource,
  part: () => string,
  chosen: () => Look | null = () => null,
) {
  const server = () => seated(source().base)
  const at = () => source().at(part())
  const once = counted()
  return {
    rows: (look: Look, signal?: AbortSignal) =>
      given(
        server().POST('/tables/rows', { body: { at: at(), look, chosen: chosen() ?? undefined }, signal }),
      ),
    concerns: (look: Look, change: Touched) =>
      given(server().POST('/tables/concerns', { body: { at: at(), look, change } })),
    count: (look: Look, signal?: AbortSignal) =>
      given(server().POST('/tables/count', { body: { at: at(), look }, signal })),
    groups: (look: Look, signal?: AbortSignal) =>
      given(server().POST('/tables/groups', { body: { at: at(), look }, signal })),
    fields: (through: string) => given(server().POST('/tables/fields', { body: { at: at(), through } })),
    options: (path: string, text: string, editing?: Editing) =>
      given(server().POST('/tables/options', { body: { at: at(), path, text, editing } })),
    read: (cells: CellText[]) => given(server().POST('/tables/read', { body: { at: at(), cells } })),
    save: (rows: RowSaving[]) => {
      const body = { at: at(), rows }
      return once(body, (key) => given(server().POST('/tables/save', { body, ...counts(key) })))
    },
    out: (more: Omit<OutAsk, 'at'>) => given(server().POST('/tables/out', { body: { at: at(), ...more } })),
    outgoing: (id: string) => given(server().GET('/outgoing/{id}', { params: { path: { id } } })),
    fileAddress: (id: string) =>
      `/api${source().base}/outgoing/${id}/file` + (seenAs() ? `?see_as=${seenAs()}` : ''),
    proof: (look: Look) => given(server().POST('/tables/proof', { body: { at: at(), look } })),
    proofOf: (id: number, look: Look) =>
      given(server().POST('/tables/proof/{id}/why', { params: { path: { id } }, body: { at: at(), look } })),
    records: (text: string) =>
      given(server().POST('/tables/records/options', { body: { at: at(), path: '', text } })),
    press: (button: string, chosen: ReturnType<typeof chosenOf>, confirmed: number[]) => {
      const body = { at: at(), button, chosen, confirmed, tried: source().tries?.() || undefined }
      return once(body, (key) => given(server().POST('/press', { body, ...counts(key) })))
    },
    off: (keys: number[]) => given(server().POST('/press/rows', { body: { at: at(), keys } })),
    views: () => given(server().POST('/tables/views', { body: { at: at(), through: '' } })),
    keep: (name: string, body: Arrangement) =>
      given(server().PUT('/tables/views', { body: { at: at(), name, body } })),
    use: (id: number) => given(server().POST('/views/{id}/use', { params: { path: { id } } })),
    remove: (id: number) => given(server().DELETE('/views/{id}', { params: { path: { id } } })),
  }
}

export type Asking = ReturnType<typeof asking>
