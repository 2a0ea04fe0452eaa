import type { Condition, Name, Operand, Step } from '@/api/types'
import { operatorWord } from '@/fields/operators'
import { target, type useBuild } from './build'
import { parts } from '@/surface/parts'

type Build = ReturnType<typeof useBuild>

/** A known value in words; an expression that is more than a name stays as it is. */
export function knownWords(build: Build, names: Name[], expression: string): string {
  if (!/^[a-z_0-9.]+$/.test(expression)) return expression
  const [root, ...rest] = expression.split('.')
  const name = names.find((n) => n.key === root)
  if (!name) return expression
  if (!rest.length) return name.type.kind === 'list' ? `“${name.label}”` : name.label.toLowerCase()
  let words = name.label
  let object = name.type.object
  for (const part of rest) {
    const answer = object ? undefined : name.type.answers?.find((a) => a.key === part)
    const field = build.object(object)?.fields.find((f) => f.key === part)
    const said = root === 'person' ? answer?.label : answer && answerWords(build, answer, name)
    words = said ?? `${words} › ${field?.label ?? part}`
    object = answer?.type.object ?? (field && target(field))
  }
  return words
}

/**
 * What a person gave on a screen: an input by its label, rows by what was chosen. A label of
 * one word could be taken for a field's, so the screen is said as well.
 */
function answerWords(build: Build, answer: Name, screen: Name): string {
  const object = build.object(answer.type.object)
  if (answer.type.kind === 'list') return `the chosen ${object?.plural.toLowerCase() ?? 'records'}`
  if (answer.type.kind === 'record') return `the chosen ${object?.label.toLowerCase() ?? 'record'}`
  const label = answer.label || answer.key
  return label.includes(' ') ? `“${label}”` : `“${label}” on ${screen.label}`
}

export function operandWords(
  build: Build,
  names: Name[],
  o: Operand | undefined,
  choices?: { key: string; label: string }[],
): string {
  if (!o) return '…'
  if (o.expression) return knownWords(build, names, o.expression)
  const v = o.literal
  if (v === undefined || v === null) return '…'
  if (v === true) return 'yes'
  if (v === false) return 'no'
  if (typeof v === 'object') {
    const x = v as { label?: string; amount?: string; currency?: string }
    return x.label ?? `${x.amount ?? ''} ${x.currency ?? ''}`.trim()
  }
  return choices?.find((c) => c.key === v)?.label ?? String(v)
}

/** A condition in words, one line a condition. */
export function conditionLines(build: Build, names: Name[], object: string, c: Condition): string[] {
  const say = (o: Operand | undefined, choices?: { key: string; label: string }[]) =>
    operandWords(build, names, o, choices)
  if (c.field) {
    const field = build.fieldAt(object, c.field)
    const type = field?.type === 'worked_out' ? field.result : field?.type
    let text = `${build.pathLabel(object, c.field)} ${operatorWord(c.op ?? 'is', type)}`
    if (c.op === 'between') text += ` ${say(c.value, field?.choices)} and ${say(c.to, field?.choices)}`
    else if (c.op === 'one_of' && !c.value)
      text += ' ' + (c.values ?? []).map((v) => say(v, field?.choices)).join(', ')
    else if (c.op?.startsWith('within')) text = text.replace('…', say(c.value))
    else if (c.op !== 'is_empty' && c.op !== 'is_not_empty') text += ` ${say(c.value, field?.choices)}`
    return [text]
  }
  if (c.related) {
    const name = build.object(c.related.object)
    const where = conditionLines(build, names, c.related.object, c.related.where).join(' and ')
    const label = name?.label ?? c.related.object
    const has = c.related.none ? 'has no ' + label.toLowerCase() : 'has ' + build.one(c.related.object)
    return [`${has}${where ? ' where ' + where : ''}`]
  }
  if (c.expression) return [c.expression]
  if (c.any) return [c.any.flatMap((x) => conditionLines(build, names, object, x)).join(' or ')]
  return (c.all ?? []).flatMap((x) => conditionLines(build, names, object, x))
}

/** What the person sees on a screen, one line a part. */
export function screenLines(step: Step): string[] {
  const bands = step.screen?.bands ?? step.finish?.bands ?? []
  const lines = bands.flatMap((b) => b.columns.flatMap((c) => c.parts.map((p) => parts[p.kind].says(p))))
  return step.finish ? [`“${step.finish.message}”`, ...lines] : lines
}

/** How many rows of a table can be chosen. */
export const selections = [
  { key: 'none', label: 'no row can be chosen' },
  { key: 'one', label: 'one row is chosen' },
  { key: 'several', label: 'several rows are chosen' },
]
