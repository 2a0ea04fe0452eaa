import { inject, onScopeDispose, provide, type InjectionKey } from 'vue'

/** What a button can do to the page or screen that it stands on. */
interface Around {
  /** Puts a value into an input, as if it had been entered. */
  set(part: string, value: unknown): void
  /** Reads a part again, or all there is. */
  again(part?: string): void
  /** Says how a part is read again. */
  readers: Map<string, () => void>
}

const key: InjectionKey<Around> = Symbol('around')

export function provideAround(set: Around['set'], all: () => void): Around {
  const readers = new Map<string, () => void>()
  const again = (part?: string) => (part && readers.get(part) ? readers.get(part)!() : all())
  const around = { set, again, readers }
  provide(key, around)
  return around
}

/** What is around a part; read says how the part is read again. */
export function useAround(part: string, read: () => void): Around | undefined {
  const around = inject(key, undefined)
  // What rows open to has the key of its table, which was there before.
  if (around && !around.readers.has(part)) {
    around.readers.set(part, read)
    onScopeDispose(() => around.readers.delete(part))
  }
  return around
}
