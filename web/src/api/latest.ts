/**
 * Tells whether a question is still the latest when its answer comes, so that an answer
 * that comes late never takes the place of a newer one.
 */
export function latest() {
  let asked = 0
  return {
    /** Asks anew: what was asked before does not count any more. */
    ask: () => {
      const mine = ++asked
      return () => mine === asked
    },
  }
}
