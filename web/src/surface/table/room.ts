import { computed, inject, provide, ref, type InjectionKey, type Ref } from 'vue'

/** How much room tables have, so that only one thing scrolls under the pointer. */
export interface Room {
  /** The tables stand in something that scrolls: they do not scroll by themselves. */
  shared: Readonly<Ref<boolean>>
  /** The table that has the room to itself for now, '' when none has. */
  alone: Ref<string>
  /** They lie in a row of another, where nothing is shown alone. */
  nested: boolean
}

const key: InjectionKey<Room> = Symbol('room of tables')

export function provideRoom(shared: Readonly<Ref<boolean>>): Room {
  const room = { shared, alone: ref(''), nested: false }
  provide(key, room)
  return room
}

/** Tables below lie in a row of another. */
export const provideNested = () =>
  provide(key, { shared: computed(() => true), alone: ref(''), nested: true })

export const useRoom = (): Room =>
  inject(key, { shared: computed(() => false), alone: ref(''), nested: false }, false)
