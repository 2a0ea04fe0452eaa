import { useDark } from '@vueuse/core'

/** Whether the dark colours are on; remembered, and the system's choice at first. */
export const useDarkness = () => useDark({ storageKey: 'plainpath.colours' })
