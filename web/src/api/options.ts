import { api, given } from './client'
import type { Ref } from './types'

/** Finds records of an object in a space by what they are called. */
export const findIn =
  (object: () => string | undefined, space = 'trial') =>
  (text: string): Promise<Ref[]> =>
    given(
      api.GET('/build/spaces/{space}/objects/{object}/options', {
        params: { path: { space, object: object() ?? '' }, query: { text } },
      }),
    )
