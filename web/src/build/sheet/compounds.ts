import type { Name, ObjectDef, Step } from '@/api/types'
import { columns } from '@/surface/fresh'
import { parts } from '@/surface/parts'
import { keyFrom, target, type useBuild } from '../build'
import { kindOf, knownValues } from '../conditions/known'

/** What one line makes: steps, or several that belong together. */
export interface Made {
  label: string
  what: string
  make: (words: string) => Step[]
}

type Build = ReturnType<typeof useBuild>

/** Keys that are free, also of each other. */
function keys(taken: string[]): (wish: string) => string {
  const all = [...taken, 'person', 'today', 'now']
  return (wish) => {
    const key = keyFrom(wish, all)
    all.push(key)
    return key
  }
}

/** A screen on which one record of a list, or several, are chosen. */
function choosing(key: string, title: string, source: string, o: ObjectDef, several: boolean): Step {
  const part = parts.table.fresh({
    key: () => keyFrom(several ? o.plural : o.label, []),
    of: { path: source, object: o },
  })
  const table = { ...part.table!, select: several ? ('several' as const) : ('one' as const) }
  table.columns = columns(o, true).slice(0, 4)
  const labelled = { ...part, label: several ? o.plural : o.label, table }
  return { key, kind: 'screen', title, screen: { bands: [{ columns: [{ parts: [labelled] }] }] } }
}

/** Somebody types part of a name, what has it is searched for, and one of that is chosen. */
function finding(o: ObjectDef, taken: string[]): Made[] {
  const field = o.fields.find((f) => f.key === o.label_field)
  if (!field || kindOf(field) !== 'text') return []
  const one = o.label.toLowerCase()
  return [
    {
      label: 'Find ' + o.plural.toLowerCase(),
      what: `by part of the ${field.label.toLowerCase()}, and choose one`,
      make: () => {
        const key = keys(taken)
        const [ask, search, choose] = [key('which ' + one), key(o.plural), key('choose ' + one)]
        const input = {
          key: 'part',
          kind: 'input' as const,
          label: `Part of the ${field.label.toLowerCase()}`,
        }
        return [
          {
            key: ask,
            kind: 'screen',
            title: `Which ${one}?`,
            screen: { bands: [{ columns: [{ parts: [{ ...input, input: { type: 'text' } }] }] }] },
          },
          {
            key: search,
            kind: 'search',
            title: o.plural,
            search: {
              object: o.key,
              where: {
                all: [
                  {
                    field: o.label_field,
                    op: 'contains',
                    value: { expression: ask + '.part' },
                    empty: 'skip',
                  },
                ],
              },
              order: [{ path: o.label_field }],
            },
          },
          choosing(choose, `Choose the ${one}`, search, o, false),
        ]
      },
    },
  ]
}

/** What belongs to a record that is known is searched for and chosen from. */
function belonging(build: Build, names: Name[], taken: string[]): Made[] {
  const near = knownValues(build, names, {}).filter(
    (k) =>
      k.kind === 'record' &&
      !k.path.startsWith('person') &&
      !k.label.includes(' › ', k.label.indexOf(' › ') + 1),
  )
  return near.flatMap((k) => {
    const of = build.object(k.object)
    if (!of) return []
    return build.own.flatMap((o) =>
      o.fields
        .filter((f) => f.type === 'reference' && target(f) === of.key)
        .flatMap((f) =>
          [true, false].map((several): Made => {
            const what = several ? o.plural.toLowerCase() : `one of the ${o.plural.toLowerCase()}`
            return {
              label: `Choose ${what} of ${k.path.includes('.') ? 'the chosen ' + of.label.toLowerCase() : k.label}`,
              what: `whose ${f.label} it is`,
              make: () => {
                const key = keys(taken)
                const search = key(o.plural)
                return [
                  {
                    key: search,
                    kind: 'search',
                    title: o.plural,
                    search: {
                      object: o.key,
                      where: {
                        all: [{ field: f.key, op: 'is', value: { expression: k.path }, empty: 'nothing' }],
                      },
                      order: [{ path: o.label_field }],
                    },
                  },
                  choosing(
                    key('choose ' + (several ? o.plural : o.label)),
                    several ? `Choose ${o.plural.toLowerCase()}` : `Choose the ${o.label.toLowerCase()}`,
                    search,
                    o,
                    several,
                  ),
                ]
              },
            }
          }),
        ),
    )
  })
}

/** All records of an object, to choose from. */
function listed(build: Build, o: ObjectDef, taken: string[]): Made[] {
  return [true, false].map((several) => {
    const what = several ? o.plural.toLowerCase() : build.one(o.key)
    return {
      label: 'Choose ' + what,
      what: several ? 'several, from all of them' : 'from all of them',
      make: () => {
        const key = keys(taken)
        const search = key(o.plural)
        return [
          {
            key: search,
            kind: 'search',
            title: o.plural,
            search: { object: o.key, where: {}, order: [{ path: o.label_field }] },
          },
          choosing(key('choose ' + (several ? o.plural : o.label)), `Choose ${what}`, search, o, several),
        ]
      },
    }
  })
}

/** Steps that often go together, made by one line. */
export function compounds(build: Build, names: Name[], taken: string[]): Made[] {
  return [
    ...belonging(build, names, taken),
    ...build.own.flatMap((o) => [...listed(build, o, taken), ...finding(o, taken)]),
  ]
}
