import type { Hidden } from '@/api/types'

/** What is hidden, with how much of it there is. */
export function hiddenWords(h: Hidden): string {
  const what = h.field ? `${h.label} of ${h.of}` : `all ${h.label}`
  const one = h.field ? 'value' : 'record'
  const many = (n: number) => `${n.toLocaleString()} ${n === 1 ? one : one + 's'}`
  const places = [
    h.production && `${many(h.production)} in production`,
    h.trial && `${many(h.trial)} in trial`,
  ]
  return `${what}: ${places.filter(Boolean).join(', ') || 'nothing in it'}`
}
