import type { Page, Wire } from '@/api/types'
import { placed } from './edits'

/** One part takes a value of another, perhaps by a search between them. */
export interface Line {
  from: string
  to: string
  /** The path of what is taken, such as calls.selected.lift. */
  value: string
  /** The search that takes it, where it is not the part itself. */
  by?: string
}

/** What feeds the parts of a page, searches between them passed through. */
export function wiringOf(wires: Wire[], page: Page) {
  const parts = new Set(placed(page.bands).map((p) => p.part.key))
  const searches = new Set(page.searches.map((s) => s.key))

  /** What feeds something, seen from a part. */
  function feeding(key: string, to: string, seen: Set<string>): Line[] {
    return wires
      .filter((w) => w.to === key)
      .flatMap((w) => {
        if (parts.has(w.from))
          return [{ from: w.from, to, value: w.value, ...(key === to ? {} : { by: key }) }]
        if (!searches.has(w.from) || seen.has(w.from)) return []
        seen.add(w.from)
        return feeding(w.from, to, seen)
      })
  }
  const into = (part: string) => feeding(part, part, new Set())
  const outOf = (part: string) =>
    [...parts].flatMap((p) => into(p).filter((l) => l.from === part && p !== part))
  return { into, outOf }
}

export type Wiring = ReturnType<typeof wiringOf>
