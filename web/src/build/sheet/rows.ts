import type { Step } from '@/api/types'

/** One row of the sheet: a step, or the head of a way of a branch. */
export interface SheetRow {
  id: string
  depth: number
  /** The pointer of the step, or of the way. */
  pointer: string
  number?: number
  step?: Step
  /** The array of steps the step stands in, and where. */
  siblings: string
  index: number
  count: number
  way?: { title: string; when?: string; empty: boolean }
}

/** Steps in the order of time, those of branches indented below them. */
export function sheetRows(steps: Step[]): SheetRow[] {
  const out: SheetRow[] = []
  let number = 0
  const walk = (list: Step[], pointer: string, depth: number): void => {
    list.forEach((step, index) => {
      const at = `${pointer}/${index}`
      out.push({
        id: step.key,
        depth,
        pointer: at,
        number: ++number,
        step,
        siblings: pointer,
        index,
        count: list.length,
      })
      if (step.repeat) {
        const inside = at + '/repeat/steps'
        const empty = !step.repeat.steps.length
        out.push(head(at + '/repeat', depth + 1, { title: 'For each', empty }, inside))
        walk(step.repeat.steps, inside, depth + 1)
      }
      if (step.if_fails) {
        const inside = at + '/if_fails'
        out.push(head(inside, depth + 1, { title: 'If it fails', empty: !step.if_fails.length }, inside))
        walk(step.if_fails, inside, depth + 1)
      }
      if (!step.branch) return
      step.branch.ways.forEach((w, i) => {
        const way = `${at}/branch/ways/${i}`
        out.push(
          head(way, depth + 1, { title: w.title, when: w.when, empty: !w.steps.length }, way + '/steps'),
        )
        walk(w.steps, way + '/steps', depth + 1)
      })
      const otherwise = step.branch.otherwise ?? []
      out.push(
        head(
          at + '/branch/otherwise',
          depth + 1,
          { title: 'Otherwise', empty: !otherwise.length },
          at + '/branch/otherwise',
        ),
      )
      walk(otherwise, at + '/branch/otherwise', depth + 1)
    })
  }
  walk(steps, '/steps', 0)
  return out
}

function head(pointer: string, depth: number, way: SheetRow['way'], siblings: string): SheetRow {
  return { id: pointer, depth, pointer, siblings, index: -1, count: 0, way }
}

/** The keys of all steps, wherever they stand. */
export function stepKeys(steps: Step[]): string[] {
  return sheetRows(steps).flatMap((r) => (r.step ? [r.step.key] : []))
}
