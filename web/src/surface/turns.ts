import type { View } from '@/api/types'

/** The turns of the repeats that a screen is in, as in "2" or "2.1"; "" where it is in none. */
export const turnsOf = (view: View): string => (view.turns ?? []).map((t) => t.number).join('.')

/** Those turns in words. */
export const saidTurns = (view: View): string[] =>
  (view.turns ?? []).map((t) => `${t.what} ${t.number} of ${t.of}` + (t.item ? `: ${t.item}` : ''))
