import type { Piece } from '@/api/types'
import { format } from '@/fields/fields'

/** A text with its values as tables write them. */
export function say(sentence: Piece[] | null | undefined): string {
  return (sentence ?? []).map((p) => (p.type ? format({ ...p, type: p.type }, p.value) : p.text)).join('')
}
