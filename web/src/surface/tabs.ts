import { computed, inject, type InjectionKey, provide, ref, type Ref as VueRef } from 'vue'

/** The tabs that are open on a surface, by what they are called. */
const key: InjectionKey<VueRef<string[]>> = Symbol('tabs')

/** Keeps which tabs are open on a surface elsewhere, such as in its address. */
export function provideTabs(open: VueRef<string[]>): void {
  provide(key, open)
}

/** What a tab is called in an address. */
const called = (title: string): string =>
  title
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '-')
    .replace(/^-|-$/g, '')

/** Which of a band's tabs is open. The first is where nothing else is said. */
export function useTabs(titles: () => string[]) {
  const open = inject(key, () => ref<string[]>([]), true)
  const own = computed(() => titles().map(called))
  const at = computed({
    get: () =>
      Math.max(
        own.value.findIndex((name) => open.value.includes(name)),
        0,
      ),
    set: (i) => {
      const others = open.value.filter((name) => !own.value.includes(name))
      open.value = i === 0 ? others : [...others, own.value[i]]
    },
  })
  return at
}
