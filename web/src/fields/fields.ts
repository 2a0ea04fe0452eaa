import type { ExprType, FieldDef, Heading, LookTotal } from '@/api/types'
import { types } from '@/api/words'
import { address, choice, choices, day, decimal, label, money, yesNo, type Formatter } from './formats'
import { moment } from './zone'

export type FieldType = FieldDef['type']

/** The kind of value a field holds, as expressions call it. */
export type ValueKind = Exclude<ExprType['kind'], 'list' | 'screen' | 'failure'>

/**
 * What the front end does with one type of field, but for its input, which is in inputs.ts. What it is called and
 * the kind of its values come from the server.
 */
export interface FieldKind {
  /** What it is, where types of a sort are treated alike. */
  family: 'text' | 'number' | 'time' | 'choice' | 'record' | 'file' | 'composite' | 'other'
  format: Formatter
  /** What its values can be put together to. */
  aggregates: readonly LookTotal['of'][]
  /** How a list is ordered by it, upwards and downwards. */
  orders: readonly [up: string, down: string]
  right?: true
  /** It reads badly when it is broken over lines. */
  unbroken?: true
  /** It wants room to be read. */
  roomy?: true
  /** Its cells may be higher than a line. */
  high?: true
  /** Cells take what is typed as it comes, letter by letter. */
  letters?: true
  /** Its value is a link of its own, which does not lead to the record besides. */
  linked?: true
  /** Its cell is more than a text. */
  drawn?: true
  /** It is entered by one act, such as choosing. */
  picked?: true
  /** It can have a least and a most. */
  bounded?: true
  /** It is a text that people look for words in. */
  searchable?: true
  /** It can be handed over to a page or a walkthrough. */
  handed?: true
  /** Nobody gives its value: the program does. */
  given?: true
  /** An expression that does where a value of it is missing. */
  instead?: string
  /** The type a condition asks for a value of. */
  asked?: FieldType
}

const letters = ['from A to Z', 'from Z to A'] as const
const amounts = ['least first', 'greatest first'] as const
const times = ['earliest first', 'latest first'] as const
const listed = ['in its order', 'backwards'] as const
const sums = ['sum', 'average', 'least', 'greatest'] as const
const ends = ['least', 'greatest'] as const

const plain: Formatter = (value) => String(value)
const text = { family: 'text', format: plain, aggregates: [], orders: letters } as const
const number = { family: 'number', aggregates: sums, orders: amounts, right: true, unbroken: true } as const
const time = { family: 'time', aggregates: ends, orders: times, unbroken: true, letters: true } as const
const record = {
  family: 'record',
  format: label,
  aggregates: [],
  orders: letters,
  linked: true,
  picked: true,
} as const
const file = { ...record, family: 'file', drawn: true } as const

/** The types of fields, in the order a builder is offered them. */
export const fieldTypes: Record<FieldType, FieldKind> = {
  text: { ...text, letters: true, bounded: true, searchable: true, handed: true, instead: '"–"' },
  long_text: {
    ...text,
    roomy: true,
    high: true,
    letters: true,
    drawn: true,
    bounded: true,
    searchable: true,
    instead: '"–"',
    asked: 'text',
  },
  whole_number: {
    ...number,
    format: decimal, // beyond 2⁵³ it comes as text
    letters: true,
    bounded: true,
    handed: true,
    instead: '0',
  },
  decimal: {
    ...number,
    format: decimal,
    letters: true,
    bounded: true,
    handed: true,
    instead: '0',
  },
  money: {
    ...number,
    format: money,
    letters: true,
    bounded: true,
    handed: true,
  },
  yes_no: {
    family: 'choice',
    format: yesNo,
    aggregates: [],
    orders: listed,
    picked: true,
    handed: true,
    instead: 'false',
  },
  date: { ...time, format: day, handed: true, instead: 'today' },
  date_time: {
    ...time,
    format: (value) => moment(String(value)),
    handed: true,
    instead: 'now',
  },
  choice: {
    ...text,
    family: 'choice',
    format: choice,
    orders: listed,
    drawn: true,
    picked: true,
  },
  several_choices: {
    family: 'choice',
    format: choices,
    aggregates: [],
    orders: letters,
    drawn: true,
    picked: true,
    asked: 'choice',
  },
  email: { ...text, letters: true, linked: true, drawn: true, searchable: true },
  phone: {
    ...text,
    unbroken: true,
    letters: true,
    linked: true,
    drawn: true,
    searchable: true,
  },
  web_link: { ...text, letters: true, linked: true, drawn: true },
  address: {
    family: 'composite',
    format: address,
    aggregates: [],
    orders: letters,
    roomy: true,
  },
  picture: { ...file, high: true },
  file: { ...file },
  running_number: {
    family: 'number',
    format: (value, heading) => (heading.prefix ?? '') + String(value),
    aggregates: ends,
    orders: amounts,
    unbroken: true,
    given: true,
    asked: 'whole_number',
  },
  person: { ...record },
  reference: { ...record, handed: true },
  worked_out: { ...text, family: 'other', given: true },
}

/** The types for which something is so, in their order. */
export function typesWhere(holds: (kind: FieldKind, type: FieldType) => unknown): FieldType[] {
  return (Object.keys(fieldTypes) as FieldType[]).filter((type) => holds(fieldTypes[type], type))
}

/** What builders call a type. */
export const typeWords = (type: FieldType): string => types[type].words

/** The kind of value a type holds. */
export const kindOfType = (type: FieldType): ValueKind => types[type].kind

/** The texts that values of a type are made of, by name. */
export function partsOf(type: FieldType): readonly string[] {
  const of = types[type]
  return 'parts' in of ? of.parts : []
}

/** Types as they are offered to choose from. */
export const offered = (types: FieldType[]) => types.map((key) => ({ key, label: typeWords(key) }))

/** Whether a value is one thing, and not made of several. */
export const isSingle = (type: FieldType) =>
  !partsOf(type).length && kindOfType(type) !== 'several' && fieldTypes[type].family !== 'file'

/** The first type whose values are of a kind. */
export const typeOfKind = (kind: string) => typesWhere((_, type) => kindOfType(type) === kind)[0]

/** Whether its values are short, and a text at that: what a table shows at first. */
export const isShort = (type: FieldType) => !fieldTypes[type].roomy && fieldTypes[type].family !== 'file'

/** What is stored in a field or comes of its expression. */
export const resultOf = (field: { type: FieldType; result?: FieldType }): FieldType =>
  field.type === 'worked_out' ? (field.result ?? 'text') : field.type

/** Why a value could not be computed, '' when it could. */
export function failure(value: unknown): string {
  return typeof value === 'object' && value !== null && 'failure' in value ? String(value.failure) : ''
}

/** A value as a person reads it. Empty is an empty text. */
export function format(heading: Pick<Heading, 'type' | 'prefix' | 'choices'>, value: unknown): string {
  if (value === null || value === undefined) return ''
  return failure(value) || fieldTypes[heading.type].format(value, heading)
}
