import { useStorage } from '@vueuse/core'
import { useToast } from 'primevue/usetoast'
import type { Band, KnownSearch, Part } from '@/api/types'
import { keyFrom } from '../build'

/** Parts that were copied, alone or as a whole band, with the searches that feed them. */
export interface Copied {
  label: string
  /** All of the band, or one column of it with one part. */
  band: Band
  whole: boolean
  searches: KnownSearch[]
}

/** What was copied last, in any tab, and copying. */
export function useCopied() {
  const toast = useToast()
  const copied = useStorage<Copied | null>('plainpath.copied', null, localStorage, {
    serializer: { read: (v) => JSON.parse(v) as Copied | null, write: JSON.stringify },
  })

  function take(label: string, band: Band, whole: boolean, searches: KnownSearch[]): void {
    copied.value = { label, band, whole, searches: feeding(band, searches) }
    toast.add({ severity: 'success', summary: `“${label}” was copied`, life: 3000 })
  }

  return {
    copied,
    copyBand: (label: string, band: Band, searches: KnownSearch[]) => take(label, band, true, searches),
    copyPart: (part: Part, searches: KnownSearch[]) =>
      take(part.label || part.key, { columns: [{ parts: [part] }] }, false, searches),
  }
}

/** The lists that a part shows. */
export const sourcesOf = (part: Part): string[] =>
  [
    part.table?.source,
    part.figure?.source,
    part.figure?.against,
    part.chart?.source,
    part.calendar?.source,
    ...(part.cards?.sources ?? []).map((s) => s.source),
  ].filter((s) => s !== undefined)

/** The searches that feed what is in a band. */
function feeding(band: Band, searches: KnownSearch[]): KnownSearch[] {
  const sources = band.columns.flatMap((c) => c.parts.flatMap(sourcesOf))
  return searches.filter((s) => sources.includes(s.key))
}

/** Members that hold expressions, and those that hold texts with expressions in braces. */
const expressions = [
  'source',
  'expression',
  'against',
  'for_each',
  'of',
  'when',
  'offered_when',
  'part',
  'only_when',
]
const texts = ['text', 'message', 'nothing', 'reading', 'question', 'link']

/** The same with other keys in the place of those that are named in it. */
function renamed<T>(node: T, names: Map<string, string>, member = ''): T {
  if (typeof node === 'string') {
    const inside = (s: string) => s.replace(/(?<![\w."'])[a-z_]\w*/g, (word) => names.get(word) ?? word)
    if (expressions.includes(member)) return inside(node) as T
    if (texts.includes(member)) return node.replace(/\{[^{}]*\}/g, inside) as T
    return node
  }
  if (Array.isArray(node)) return node.map((n) => renamed(n as unknown, names, member)) as T
  if (node && typeof node === 'object')
    return Object.fromEntries(
      Object.entries(node).map(([key, v]) => [key, renamed(v as unknown, names, key)]),
    ) as T
  return node
}

/** What was copied as it can stand where some keys are taken: those get others, wherever they are named. */
export function pasted(copied: Copied, taken: string[]): { band: Band; searches: KnownSearch[] } {
  const names = new Map<string, string>()
  const all = [...taken]
  const parts = copied.band.columns.flatMap((c) => c.parts)
  for (const { key } of [...parts, ...copied.searches]) {
    const free = keyFrom(key, all)
    all.push(free)
    names.set(key, free)
  }
  const rekeyed = <T extends { key: string }>(one: T): T => ({
    ...renamed(one, names),
    key: names.get(one.key) ?? one.key,
  })
  const band = {
    ...renamed(copied.band, names),
    columns: copied.band.columns.map((c) => ({
      ...c,
      parts: c.parts.map((p) => ({ ...rekeyed(p), was: undefined })),
    })),
  }
  return { band, searches: copied.searches.map(rekeyed) }
}
