import type { Effect } from '@/api/types'

/** Does what is left to be done in order; what goes alongside does not wait for what stands before it. */
export async function inOrder(
  effects: Effect[],
  work: (effect: Effect) => void | Promise<void>,
): Promise<void> {
  for (let i = 0; i < effects.length;) {
    const together = [effects[i++]]
    while (effects[i]?.alongside) together.push(effects[i++])
    await Promise.all(together.map(work))
  }
}
