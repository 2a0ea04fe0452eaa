import { keyFrom } from './build'

/** Every key that stands in a document. */
function keysIn(held: unknown): string[] {
  if (Array.isArray(held)) return held.flatMap(keysIn)
  if (typeof held !== 'object' || held === null) return []
  const { key } = held as { key?: unknown }
  return [...(typeof key === 'string' ? [key] : []), ...Object.values(held).flatMap(keysIn)]
}

/** How many texts of a document, its names and kinds aside, have a word in them. */
function namings(held: unknown, word: RegExp): number {
  if (typeof held === 'string') return word.test(held) ? 1 : 0
  if (typeof held !== 'object' || held === null) return 0
  const members = Object.entries(held).filter(
    ([name]) => !['key', 'kind', 'type', 'label', 'title'].includes(name),
  )
  return members.reduce((n, [, member]) => n + namings(member, word), 0)
}

/** Keys that new things have before anybody said what they are. */
const fresh = ['input', 'text', 'details', 'table', 'button']

/**
 * The key of something after its label changed: it follows the label as long as it was made from
 * one and nothing in the document names it.
 */
export function keyAfter(document: unknown, key: string, was: string, label: string): string {
  const made = key.replace(/_\d+$/, '')
  if (!label.trim() || (!fresh.includes(made) && made !== keyFrom(was, []).replace(/_\d+$/, ''))) return key
  if (namings(document, new RegExp(`\\b${key}\\b`))) return key
  const others = keysIn(document).filter((k) => k !== key)
  return keyFrom(label, [...others, 'person', 'today', 'now'])
}

/** Words with a capital at their beginning. */
export const capital = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1)
