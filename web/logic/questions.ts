import { nextTick } from 'vue'

/** What becomes of a question: answered, never received, or done with the answer lost. */
export type Fate = 'give' | 'lose' | 'swallow'

/** Questions to a server that are answered when it is told to, in any order. */
export function questions() {
  const open: ((fate: Fate) => void)[] = []
  const asked = <T>(make: () => T) =>
    new Promise<T>((done, failed) => {
      open.push((fate) => {
        try {
          const out = fate === 'lose' ? undefined : make()
          if (fate === 'give') done(out as T)
          else failed(new Error('lost'))
        } catch (error) {
          failed(error as Error)
        }
      })
    })
  function answer(n: number, fate: Fate): void {
    if (open.length) open.splice(n % open.length, 1)[0](fate)
  }
  return { open, asked, answer }
}

/** Waits until everything has followed that follows by itself. */
export async function settle(): Promise<void> {
  for (let i = 0; i < 12; i++) await nextTick()
}
