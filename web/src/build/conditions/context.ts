import { inject, provide, type InjectionKey, type Ref } from 'vue'
import type { Name } from '@/api/types'

/** What is known at the places of a document, for the pickers of values. */
export interface KnownContext {
  /** The names known at a place, such as a step of a walkthrough. */
  names: (place: string) => Name[]
  /** A sample of a known value by its path. */
  samples: Ref<Record<string, string>>
}

const key: InjectionKey<KnownContext> = Symbol('known values')

export function provideKnown(context: KnownContext): void {
  provide(key, context)
}

export function useKnown(): KnownContext {
  const context = inject(key)
  if (!context) throw new Error('a picker of known values stands where nothing is known')
  return context
}

/** The place of an expression about a row of a table: what is known at a step, and the row. */
export const rowPlace = (object: string, step = ''): string => `row:${object}@${step}`

/** The step whose screen a place is on. */
export const stepOf = (place: string): string => place.replace(/^row:[^@]*@/, '').replace(/!$/, '')

/** The names at a place, which may be one about a row. */
export function namesAt(place: string, names: (step: string) => Name[]): Name[] {
  const [, object, step] = /^row:([^@]+)@(.*)$/.exec(place) ?? []
  if (!object) return names(place)
  return [...names(step ?? ''), { key: 'row', label: 'The row', type: { kind: 'record', object } }]
}
