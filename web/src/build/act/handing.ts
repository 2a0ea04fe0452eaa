import type { Handing, Name, Take } from '@/api/types'
import type { useBuild } from '../build'
import { kindOf, knownValues, suits, type Known } from '../conditions/known'

const depth = (k: Known) => k.path.split('.').length

/** What something that is opened needs is handed over by itself where only one value that is known can be meant. */
export function handing(
  build: ReturnType<typeof useBuild>,
  names: Name[],
  takes: Take[],
): Handing[] | undefined {
  const known = knownValues(build, names, {}).filter((k) => !k.path.includes('('))
  const hand = takes.flatMap((t) => {
    const fitting = known.filter((k) => suits(k, t.several ? 'list' : kindOf(t), t.object))
    const nearest = fitting.filter((k) => depth(k) === Math.min(...fitting.map(depth)))
    return t.required && nearest.length === 1 ? [{ to: t.key, value: nearest[0].path }] : []
  })
  return hand.length ? hand : undefined
}

/** What a walkthrough or a page takes. */
export const takesOf = (
  build: ReturnType<typeof useBuild>,
  kind: 'walkthrough' | 'page',
  key: string | undefined,
): Take[] => build.contents?.documents.find((d) => d.kind === kind && d.key === key)?.takes ?? []
