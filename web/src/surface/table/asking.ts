import { api, seenAs } from '@/api/client'
import { counted } from '@/api/counted'
import type {
  Arrangement,
  CellRead,
  CellText,
  FieldsView,
  GroupsView,
  Look,
  OutView,
  Pressed,
  Proof,
  ProofRecord,
  Ref,
  RowSaving,
  RowsSaved,
  RowsView,
  SavedView,
  Touched,
  ViewsView,
} from '@/api/types'
import type { chosenOf } from '../selection'
import type { SurfaceSource } from '../source'

/** What is asked about one table. */
export function asking(
  source: () => SurfaceSource,
  part: () => string,
  chosen: () => Look | null = () => null,
) {
  const path = (tail: string) => `${source().base}/tables/${tail}`
  const at = () => source().at(part())
  const once = counted()
  return {
    rows: (look: Look) => api.post<RowsView>(path('rows'), { at: at(), look, chosen: chosen() ?? undefined }),
    concerns: (look: Look, change: Touched) =>
      api.post<{ concerns: boolean }>(path('concerns'), { at: at(), look, change }),
    count: (look: Look) => api.post<{ total: number }>(path('count'), { at: at(), look }),
    groups: (look: Look) => api.post<GroupsView>(path('groups'), { at: at(), look }),
    fields: (through: string) => api.post<FieldsView>(path('fields'), { at: at(), through }),
    options: (field: string, text: string, editing?: { id: number; values: Record<string, unknown> }) =>
      api.post<Ref[]>(path('options'), { at: at(), path: field, text, editing }),
    read: (cells: CellText[]) => api.post<CellRead[]>(path('read'), { at: at(), cells }),
    save: (rows: RowSaving[]) => {
      const body = { at: at(), rows }
      return once(body, (key) => api.post<RowsSaved>(path('save'), body, key))
    },
    out: (more: { look: Look; format: string; name: string; chosen?: ReturnType<typeof chosenOf> }) =>
      api.post<OutView>(path('out'), { at: at(), ...more }),
    outgoing: (id: string) => api.get<OutView>(`${source().base}/outgoing/${id}`),
    fileAddress: (id: string) =>
      `/api${source().base}/outgoing/${id}/file` + (seenAs() ? `?see_as=${seenAs()}` : ''),
    proof: (look: Look) => api.post<Proof>(path('proof'), { at: at(), look }),
    proofOf: (id: number, look: Look) => api.post<ProofRecord>(path(`proof/${id}/why`), { at: at(), look }),
    records: (text: string) => api.post<Ref[]>(path('records/options'), { at: at(), path: '', text }),
    press: (button: string, chosen: ReturnType<typeof chosenOf>, confirmed: number) => {
      const body = { at: at(), button, chosen, confirmed }
      return once(body, (key) => api.post<Pressed>(`${source().base}/press`, body, key))
    },
    off: (keys: number[]) =>
      api.post<{ off: Record<string, number[]> }>(`${source().base}/press/rows`, { at: at(), keys }),
    views: () => api.post<ViewsView>(path('views'), { at: at() }),
    keep: (name: string, body: Arrangement) => api.put<SavedView>(path('views'), { at: at(), name, body }),
    use: (id: number) => api.post<undefined>(`${source().base}/views/${id}/use`, {}),
    remove: (id: number) => api.remove(`${source().base}/views/${id}`),
  }
}

export type Asking = ReturnType<typeof asking>
