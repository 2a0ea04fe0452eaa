import { api, counts, given, seated } from '@/api/client'
import { counted } from '@/api/counted'
import type { CandidateQuestion, Look } from '@/api/types'
import type { Editing } from '@/surface/form/form'

type Values = Record<string, unknown>

/** The records of one object in a space, as the builder may see and change them. */
export function useRecords(object: string, space = 'trial') {
  const path = { space, object }
  const there = seated(`/build/spaces/${space}`)
  const once = counted()
  return {
    rows: (look: Look) => given(there.POST('/tables/rows', { body: { at: { object }, look } })),
    count: () => given(there.POST('/tables/count', { body: { at: { object }, look: {} } })),
    form: (id: number) =>
      given(
        api.GET('/build/spaces/{space}/objects/{object}/records/{id}', { params: { path: { ...path, id } } }),
      ),
    add: (values: Values) =>
      once(values, (key) =>
        given(
          api.POST('/build/spaces/{space}/objects/{object}/records', {
            params: { path },
            body: { values },
            ...counts(key),
          }),
        ),
      ),
    change: (id: number, values: Values, before: Values) =>
      once({ id, values, before }, (key) =>
        given(
          api.PATCH('/build/spaces/{space}/objects/{object}/records/{id}', {
            params: { path: { ...path, id } },
            body: { values, before },
            ...counts(key),
          }),
        ),
      ),
    remove: (id: number) =>
      once(id, (key) =>
        given(
          api.DELETE('/build/spaces/{space}/objects/{object}/records/{id}', {
            params: { path: { ...path, id } },
            ...counts(key),
          }),
        ),
      ),
    fit: (editing: Editing) =>
      given(api.POST('/build/spaces/{space}/objects/{object}/fit', { params: { path }, body: editing })),
    options: (field: string, editing: Editing, text: string) =>
      given(
        api.POST('/build/spaces/{space}/objects/{object}/options/{field}', {
          params: { path: { ...path, field } },
          body: { editing, text },
        }),
      ),
    profile: (fresh: boolean) =>
      given(
        api.GET('/build/spaces/{space}/objects/{object}/profile', {
          params: { path, query: fresh ? { fresh: 'yes' } : {} },
        }),
      ),
    candidates: (ask: CandidateQuestion) =>
      given(api.POST('/build/spaces/{space}/objects/{object}/candidates', { params: { path }, body: ask })),
    evaluate: (expression: string, record: number) =>
      given(
        api.POST('/build/spaces/{space}/objects/{object}/evaluate', {
          params: { path },
          body: { expression, record },
        }),
      ),
  }
}

export type Records = ReturnType<typeof useRecords>
