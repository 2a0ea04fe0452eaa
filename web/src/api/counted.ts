import { requestKey } from './client'
import { unreached } from './reach'

/**
 * Sends something so that it counts once, however often it is sent: what is sent again as it was,
 * because no answer came, has the key that it had.
 */
export function counted() {
  const unanswered = new Map<string, string>()
  return async <T>(what: unknown, send: (key: string) => Promise<T>): Promise<T> => {
    const said = JSON.stringify(what)
    const key = unanswered.get(said) ?? requestKey()
    unanswered.set(said, key)
    try {
      const out = await send(key)
      unanswered.delete(said)
      return out
    } catch (error) {
      if (!unreached(error)) unanswered.delete(said)
      throw error
    }
  }
}
