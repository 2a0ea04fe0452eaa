import { inject, onUnmounted, provide, type InjectionKey } from 'vue'

/** How many records somebody changed somewhere and has not saved yet. */
type Count = () => number

const everywhere = new Set<Count>()
const scopeKey: InjectionKey<Set<Count>> = Symbol('unsaved')
const total = (counts: Set<Count>) => [...counts].reduce((sum, count) => sum + count(), 0)

let ask: (count: number) => Promise<boolean> = () => Promise.resolve(true)

/** How a person is asked whether to leave without saving. */
export function askBeforeLeaving(how: (count: number) => Promise<boolean>): void {
  ask = how
}

/** Whether what is not saved may be left behind; nobody is asked when there is nothing. */
export async function mayLeave(count: number): Promise<boolean> {
  return !count || ask(count)
}

/** All there is on the page. */
export const unsaved = () => total(everywhere)

/** Has what is not saved here counted, so that it is not left by mistake. */
export function useUnsaved(count: Count): void {
  const scope = inject(scopeKey, null)
  everywhere.add(count)
  scope?.add(count)
  onUnmounted(() => {
    everywhere.delete(count)
    scope?.delete(count)
  })
}

/** Counts what is not saved below this component, which can be left by itself. */
export function useUnsavedScope(): Count {
  const outer = inject(scopeKey, null)
  const scope = new Set<Count>()
  const count = () => total(scope)
  provide(scopeKey, scope)
  outer?.add(count)
  onUnmounted(() => outer?.delete(count))
  return count
}
