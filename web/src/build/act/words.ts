import type { Name, Step } from '@/api/types'
import { acts, isAct } from './acts'
import { known, type Place } from './said'

/** What a step does, as the Work lane says it. */
export function workWords(build: Place['build'], names: Name[], step: Step): string {
  const title = step.title || step.key
  if (step.branch) return step.title || 'Branch'
  if (step.repeat) return `For each of ${known({ build, names, title }, step.repeat.for_each)}`
  return isAct(step.kind) ? acts[step.kind].says(step, { build, names, title }) : ''
}

/** What a step does in detail, one line each. */
export function workLines(build: Place['build'], names: Name[], step: Step): string[] {
  if (!isAct(step.kind)) return []
  const at = { build, names, title: step.title || step.key }
  const lines = acts[step.kind].lines?.(step, at) ?? []
  return step.only_when ? [...lines, `only when ${known(at, step.only_when)}`] : lines
}
