import type { Effect, Piece } from '@/api/types'
import { format } from '@/fields/fields'

/** A text with its values as tables write them. */
export function say(sentence: Piece[] | null | undefined): string {
  return (sentence ?? []).map((p) => (p.type ? format({ ...p, type: p.type }, p.value) : p.text)).join('')
}

const severities = { done: 'success', care: 'warn', failed: 'error' } as const

/** What an act says, as a brief message; one that something failed stays until it was read. */
export function brief(e: Effect) {
  return {
    severity: e.as ? severities[e.as] : ('info' as const),
    summary: say(e.message),
    life: e.as === 'failed' ? undefined : 5000,
  }
}
