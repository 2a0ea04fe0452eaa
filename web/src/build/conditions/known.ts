import type { Name } from '@/api/types'
import { kindOfType, partsOf, resultOf, typeOfKind, typeWords, type FieldType } from '@/fields/fields'
import { target, useBuild } from '../build'
import { useKnown } from './context'

/** A known value as the picker offers it. */
export interface Known {
  path: string
  label: string
  kind: string
  object?: string
  sample?: string
  /** It may be empty where it is used. */
  empty?: boolean
  /** A function, which is filled in before it is taken. */
  fill?: boolean
}

export function kindWords(k: Known, build: ReturnType<typeof useBuild>): string {
  const object = build.object(k.object)
  if (k.kind === 'record') return 'one ' + (object?.label.toLowerCase() ?? 'record')
  if (k.kind === 'list') return 'list of ' + (object?.plural.toLowerCase() ?? 'records')
  if (k.kind === 'rows') return 'rows put together'
  const type = typeOfKind(k.kind)
  return type ? typeWords(type) : k.kind
}

/** The kind of value a field holds, as expressions call it. */
export const kindOf = (field: { type: FieldType; result?: FieldType }) => kindOfType(resultOf(field))

function parts(kind: string): readonly string[] {
  const type = typeOfKind(kind)
  return type ? partsOf(type) : []
}

/** Known everywhere, so seldom what is meant. */
const everywhere = ['person', 'today', 'now']

/**
 * Everything known at a place, with the fields of records one reference deep: what became
 * known last comes first, what is known everywhere comes last, and of each the value itself
 * before what is reached through it. Samples come from the latest rehearsal.
 */
export function knownValues(
  build: ReturnType<typeof useBuild>,
  names: Name[],
  samples: Record<string, string>,
): Known[] {
  const out: Known[] = []
  const add = (
    path: string,
    label: string,
    kind: string,
    object: string | undefined,
    depth: number,
    empty: boolean,
  ): void => {
    if (kind !== 'screen') out.push({ path, label, kind, object, sample: samples[path], empty })
    for (const part of parts(kind))
      out.push({ path: `${path}.${part}`, label: `${label} · ${part}`, kind: 'text', empty: true })
    if (kind !== 'record' || depth === 0) return
    for (const f of build.object(object)?.fields ?? []) {
      const lacking = empty || (!f.required && f.type !== 'running_number')
      add(`${path}.${f.key}`, `${label} › ${f.label}`, kindOf(f), target(f), depth - 1, lacking)
    }
  }
  const far = (n: Name) => (everywhere.includes(n.key) ? 1 : 0)
  const nearest = [...names].reverse().sort((a, b) => far(a) - far(b))
  for (const n of nearest) {
    const from = out.length
    add(n.key, n.label, n.type.kind, n.type.object, 2, !!n.type.empty)
    const many = (path: string, label: string, kind: string) => {
      if (kind === 'list' || kind === 'rows')
        out.push({ path: `size(${path})`, label: `How many: ${label}`, kind: 'whole', sample: samples[path] })
    }
    many(n.key, n.label, n.type.kind)
    for (const a of n.type.kind === 'screen' ? (n.type.answers ?? []) : []) {
      const [path, label] = [`${n.key}.${a.key}`, `${n.label} › ${a.label || a.key}`]
      add(path, label, a.type.kind, a.type.object, 2, !!(n.type.empty || a.type.empty))
      many(path, label, a.type.kind)
    }
    const depth = (k: Known) => k.path.split('.').length
    out.push(...out.splice(from).sort((a, b) => depth(a) - depth(b)))
  }
  return out
}

/** Which kinds do where one is wanted. */
export function suits(known: Known, kind: string | undefined, object: string | undefined): boolean {
  if (!kind) return true
  if (kind === 'lists') return known.kind === 'list' || known.kind === 'rows'
  if (kind === 'records') return known.kind === 'record' || known.kind === 'list'
  if (kind === 'decimal' && known.kind === 'whole') return true
  return known.kind === kind && (!object || !known.object || known.object === object)
}

/** The object of a list or record that is known at a place, by the path to it. */
export function useObjectOf(place: () => string) {
  const build = useBuild()
  const here = useKnown()
  return (path: string | undefined): string | undefined =>
    knownValues(build, here.names(place()), {}).find((k) => k.path === path)?.object
}
