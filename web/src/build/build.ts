import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api, given } from '@/api/client'
import type { Contents, FieldDef, ObjectDef } from '@/api/types'
import { partsOf } from '@/fields/fields'

/** A path from a record to a field, with its names for people. */
export interface PathOption {
  path: string
  label: string
  field: FieldDef
}

const builtIn = ['person', 'file']

/** The object that a field refers to. */
export function target(field: { type: string; object?: string }): string | undefined {
  if (field.type === 'picture' || field.type === 'file') return 'file'
  return field.type === 'person' ? 'person' : field.type === 'reference' ? field.object : undefined
}

/** The parts of which values of a field are made, as fields of their own. */
function partFields(field: FieldDef): FieldDef[] {
  return partsOf(field.type).map((part) => ({
    key: `${field.key}.${part}`,
    label: `${field.label} · ${part}`,
    type: 'text',
  }))
}

/** What the builder's side knows of the app: its contents and its model. */
export const useBuild = defineStore('build', () => {
  const contents = ref<Contents | null>(null)
  const objects = computed(() => new Map((contents.value?.objects ?? []).map((o) => [o.key, o])))

  async function load(): Promise<void> {
    contents.value = await given(api.GET('/build/contents'))
  }

  function object(key: string | undefined): ObjectDef | undefined {
    return key ? objects.value.get(key) : undefined
  }

  /** A record of an object with its article. */
  const one = (key: string | undefined): string => contents.value?.one[key ?? ''] ?? 'a record'

  /** The app's own objects, without those of the program. */
  const own = computed(() => (contents.value?.objects ?? []).filter((o) => !builtIn.includes(o.key)))

  /** Every path from an object, across at most the given number of references. */
  function paths(objectKey: string, depth = 3): PathOption[] {
    const out: PathOption[] = []
    const walk = (key: string, path: string, label: string, left: number): void => {
      for (const field of object(key)?.fields ?? []) {
        const option = { path: path + field.key, label: label + field.label, field }
        out.push(option)
        for (const part of partFields(field))
          out.push({ path: path + part.key, label: label + part.label, field: part })
        const next = target(field)
        if (next && left > 0) walk(next, option.path + '.', option.label + ' › ', left - 1)
      }
    }
    walk(objectKey, '', '', depth)
    return out.sort((a, b) => a.path.split('.').length - b.path.split('.').length)
  }

  /** The field a path ends at. */
  function fieldAt(objectKey: string, path: string): FieldDef | undefined {
    let key: string | undefined = objectKey
    let field: FieldDef | undefined
    for (const part of path.split('.')) {
      const next: FieldDef | undefined = object(key)?.fields.find((f) => f.key === part)
      field = next ?? (field && partFields(field).find((f) => f.key.endsWith('.' + part)))
      key = next && target(next)
    }
    return field
  }

  /** A path in words: Building › Customer › Name. */
  function pathLabel(objectKey: string, path: string): string {
    const labels: string[] = []
    let key: string | undefined = objectKey
    for (const part of path.split('.')) {
      const field: FieldDef | undefined = object(key)?.fields.find((f) => f.key === part)
      labels.push(field?.label ?? part)
      key = field && target(field)
    }
    return labels.join(' › ')
  }

  /** The references that point at an object, for conditions on related records. */
  function referrers(objectKey: string): { object: ObjectDef; field: FieldDef }[] {
    return [...objects.value.values()].flatMap((object) =>
      object.fields.filter((f) => target(f) === objectKey).map((field) => ({ object, field })),
    )
  }

  return { contents, own, one, load, object, paths, fieldAt, pathLabel, referrers }
})

/** The fields that can be written. */
export const settable = (o: ObjectDef | undefined): FieldDef[] =>
  (o?.fields ?? []).filter((f) => f.type !== 'worked_out' && f.type !== 'running_number')

/** Finds options whose label has every word typed, in any order. */
export function matching<T extends { label: string }>(options: T[], text: string, most = 40): T[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  return options
    .filter((o) => {
      const label = o.label.toLowerCase()
      return words.every((w) => label.includes(w))
    })
    .slice(0, most)
}

/** The same, those first that begin with what was typed, then those of which words do. */
export function beginning<T extends { label: string }>(options: T[], text: string): T[] {
  const typed = text.toLowerCase().trim()
  const rank = ({ label }: T) => {
    if (label.toLowerCase().startsWith(typed)) return 0
    return (' ' + label.toLowerCase()).includes(' ' + typed) ? 1 : 2
  }
  return matching(options, text, options.length).sort((a, b) => rank(a) - rank(b))
}

/** A key made from words, different from those taken. */
export function keyFrom(words: string, taken: Iterable<string>): string {
  const base =
    words
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^[^a-z]+|_+$/g, '')
      .slice(0, 40) || 'step'
  const used = new Set(taken)
  let key = base
  for (let n = 2; used.has(key); n++) key = `${base}_${n}`
  return key
}
