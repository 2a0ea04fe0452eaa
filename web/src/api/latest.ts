/** What is said where somebody gave up what was asked for. */
export const stopped = 'Stopped before all was read.'

/** Whether a question is still the latest; its signal gives up what was asked for it. */
export type Latest = (() => boolean) & { signal: AbortSignal }

/**
 * Tells whether a question is still the latest when its answer comes, so that an answer
 * that comes late never takes the place of a newer one. The older question is given up, by the
 * server as well.
 */
export function latest() {
  let asked: AbortController | undefined
  return {
    /** Asks anew: what was asked before does not count any more. */
    ask: (): Latest => {
      asked?.abort()
      const mine = (asked = new AbortController())
      return Object.assign((): boolean => mine === asked, { signal: mine.signal })
    },
  }
}
