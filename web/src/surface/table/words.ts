import type { Condition, GroupView, Heading, LookGroup, LookTotal } from '@/api/types'
import { fieldTypes, format, type FieldType } from '@/fields/fields'
import { day } from '@/fields/formats'
import { operatorWord } from '@/fields/operators'

export type Aggregate = LookTotal['of']

const aggregates: Record<Aggregate, string> = {
  sum: 'sum',
  average: 'average',
  least: 'least',
  greatest: 'greatest',
  count: 'number',
}

const dated: Partial<Record<Aggregate, string>> = { least: 'earliest', greatest: 'latest' }

/** An aggregate in the word that fits the field. */
export function aggregateWord(of: Aggregate, type: FieldType | undefined): string {
  return (type && fieldTypes[type].family === 'time' && dated[of]) || aggregates[of]
}

export const sameTotal = (a: LookTotal, b: LookTotal) =>
  a.path === b.path && a.of === b.of && !!a.converted === !!b.converted

export function totalWords(t: LookTotal, heading: Heading | undefined): string {
  const word = aggregateWord(t.of, heading?.type)
  const label = (heading?.label ?? t.path).toLowerCase()
  if (dated[t.of] === word) return `${word} ${label}`
  return `${word} of ${label}` + (t.converted ? ', converted' : '')
}

const dayWords = (first: string) => day(first, { type: 'date' })
const month = new Intl.DateTimeFormat(undefined, { year: 'numeric', month: 'long', timeZone: 'UTC' })

type Span = NonNullable<LookGroup['span']>

/** Periods of days by the first of them. */
const spanWords: Record<Span, (first: string) => string> = {
  '': dayWords,
  day: dayWords,
  week: (first) => `week of ${dayWords(first)}`,
  month: (first) => month.format(new Date(first)),
  quarter: (first) => `Q${Math.ceil(Number(first.slice(5, 7)) / 3)} ${first.slice(0, 4)}`,
  year: (first) => first.slice(0, 4),
}

/** The periods that dates are put together by. */
export const spans: { key: Span; label: string }[] = [
  { key: 'day', label: 'day' },
  { key: 'week', label: 'week' },
  { key: 'month', label: 'month' },
  { key: 'quarter', label: 'quarter' },
  { key: 'year', label: 'year' },
]

/** What the records of a group have in common. */
export function groupWords(
  group: Pick<GroupView, 'key'>,
  by: LookGroup,
  heading: Heading | undefined,
): string {
  if (group.key === null || group.key === undefined) return `no ${(heading?.label ?? by.path).toLowerCase()}`
  if (by.span) return spanWords[by.span](String(group.key))
  return heading ? format(heading, group.key) : String(group.key)
}

/** Which way a list is ordered, in the words that fit the field. */
export function orderWords(desc: boolean | undefined, type: FieldType | undefined): string {
  return fieldTypes[type ?? 'text'].orders[desc ? 1 : 0]
}

/** A condition as it stands in the sentence above a table. */
export function conditionWords(c: Condition, heading: Heading | undefined): string {
  const name = heading?.label ?? c.field ?? ''
  const op = operatorWord(c.op ?? 'is', heading?.type)
  const say = (v: unknown) => {
    if (!heading) return String(v)
    const text = format(heading.type === 'several_choices' ? { ...heading, type: 'choice' } : heading, v)
    return fieldTypes[heading.type].bounded && fieldTypes[heading.type].family === 'text' ? `“${text}”` : text
  }
  if (c.op === 'is_empty' || c.op === 'is_not_empty') return `${name} ${op}`
  if (c.op === 'between') return `${name} ${op} ${say(c.value?.literal)} and ${say(c.to?.literal)}`
  if (c.op === 'one_of') return `${name} ${op} ${(c.values ?? []).map((v) => say(v.literal)).join(', ')}`
  if (c.op?.startsWith('within')) return `${name} ${op.replace('…', String(c.value?.literal ?? '…'))}`
  return `${name} ${op} ${say(c.value?.literal)}`
}
