import { api } from '@/api/client'
import { counted } from '@/api/counted'
import type {
  CandidatesView,
  Condition,
  Evaluated,
  FormView,
  Look,
  ProfileView,
  Ref,
  RowsView,
} from '@/api/types'

/** What is entered for a record, over what is stored of it. */
export interface Editing {
  id: number
  values: Record<string, unknown>
}

/** The records of one object in a space, as the builder may see and change them. */
export function useRecords(object: string, space = 'trial') {
  const base = `/build/spaces/${space}/objects/${encodeURIComponent(object)}`
  const once = counted()
  return {
    rows: (look: Look) => api.post<RowsView>(`/build/spaces/${space}/tables/rows`, { at: { object }, look }),
    count: () =>
      api.post<{ total: number }>(`/build/spaces/${space}/tables/count`, { at: { object }, look: {} }),
    form: (id: number) => api.get<FormView>(`${base}/records/${id}`),
    add: (values: Record<string, unknown>) =>
      once(values, (key) => api.post<FormView>(base + '/records', { values }, key)),
    change: (id: number, values: Record<string, unknown>, seen: Record<string, unknown>) =>
      once({ id, values, seen }, (key) =>
        api.patch<FormView>(`${base}/records/${id}`, { values, seen }, key),
      ),
    remove: (id: number) => once(id, (key) => api.remove(`${base}/records/${id}`, key)),
    fit: (editing: Editing) => api.post<{ pointer: string; text: string }[]>(base + '/fit', editing),
    options: (field: string, editing: Editing, text: string) =>
      api.post<Ref[]>(`${base}/options/${field}`, { editing, text }),
    profile: (fresh: boolean) => api.get<ProfileView>(base + '/profile' + (fresh ? '?fresh=yes' : '')),
    candidates: (ask: {
      field: string
      rule?: Condition
      editing: Editing
      text?: string
      record?: number
    }) => api.post<CandidatesView>(base + '/candidates', ask),
    evaluate: (expression: string, record: number) =>
      api.post<Evaluated>(base + '/evaluate', { expression, record }),
  }
}

export type Records = ReturnType<typeof useRecords>
