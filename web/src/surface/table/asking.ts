import { api } from '@/api/client'
import type {
  Arrangement,
  FieldsView,
  GroupsView,
  Look,
  Ref,
  RowsView,
  SavedView,
  ViewsView,
} from '@/api/types'
import type { SurfaceSource } from '../source'

/** What is asked about one table. */
export function asking(source: () => SurfaceSource, part: () => string) {
  const path = (tail: string) => `${source().base}/tables/${tail}`
  const at = () => source().at(part())
  return {
    rows: (look: Look) => api.post<RowsView>(path('rows'), { at: at(), look }),
    groups: (look: Look) => api.post<GroupsView>(path('groups'), { at: at(), look }),
    fields: (through: string) => api.post<FieldsView>(path('fields'), { at: at(), through }),
    options: (field: string, text: string) =>
      api.post<Ref[]>(path('options'), { at: at(), path: field, text }),
    views: () => api.post<ViewsView>(path('views'), { at: at() }),
    keep: (name: string, body: Arrangement) => api.put<SavedView>(path('views'), { at: at(), name, body }),
    use: (id: number) => api.post<undefined>(`${source().base}/views/${id}/use`, {}),
    remove: (id: number) => api.remove(`${source().base}/views/${id}`),
  }
}

export type Asking = ReturnType<typeof asking>
