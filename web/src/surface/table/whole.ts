import { inject, provide, type InjectionKey } from 'vue'

const key: InjectionKey<boolean> = Symbol('whole table')

/** The tables below stand in something that scrolls: they do not scroll by themselves. */
export const provideWhole = () => provide(key, true)

export const useWhole = () => inject(key, false)
