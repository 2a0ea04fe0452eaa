import type { Assignment, Name, Their } from '@/api/types'
import type { useBuild } from '../build'
import { knownWords, operandWords } from '../words'

/** What the words of an act are made with. */
export interface Place {
  build: ReturnType<typeof useBuild>
  names: Name[]
  /** What the step is called. */
  title: string
}

/** Fields and what they are set to, a line each. */
export function set(at: Place, object: string | undefined, settings: Assignment[] | undefined): string[] {
  return (settings ?? []).map((s) => {
    const f = object ? at.build.fieldAt(object, s.field) : undefined
    return `${f?.label ?? s.field}: ${operandWords(at.build, at.names, s.value, f?.choices)}`
  })
}

/** A known value in words. */
export const known = (at: Place, expression: string | undefined) =>
  knownWords(at.build, at.names, expression || '…')

/** "badges of", where not records themselves are meant but those that refer to them. */
export const theirs = (at: Place, their: Their | undefined) =>
  their ? `${at.build.object(their.object)?.plural.toLowerCase() ?? their.object} of ` : ''

export const quoted = (text: string | undefined) => `“${text ?? ''}”`
