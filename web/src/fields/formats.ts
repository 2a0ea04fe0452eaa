import type { Heading } from '@/api/types'

/** A value that is there as a person reads it. */
export type Formatter = (value: unknown, heading: Pick<Heading, 'type' | 'prefix' | 'choices'>) => string

export interface Money {
  amount: string
  currency: string
}

export interface Address {
  lines?: string
  town?: string
  postcode?: string
  country?: string
}

/** An address on one line. */
export const address: Formatter = (value) => {
  const a = value as Address
  const town = [a.postcode, a.town].filter(Boolean).join(' ')
  return [a.lines?.replaceAll('\n', ', '), town, a.country].filter(Boolean).join(', ')
}

const date = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeZone: 'UTC' })

export const day: Formatter = (value) => date.format(new Date(String(value)))

// Making a format takes far longer than using it.
const formats = new Map<string, Intl.NumberFormat>()
function numbers(options: Intl.NumberFormatOptions): Intl.NumberFormat {
  const key = JSON.stringify(options)
  const made = formats.get(key) ?? new Intl.NumberFormat(undefined, options)
  formats.set(key, made)
  return made
}

/** An exact decimal in the person's locale, no digit lost on the way. */
export const decimal: Formatter = (value) => {
  const text = String(value)
  const places = text.split('.')[1]?.length ?? 0
  return numbers({ minimumFractionDigits: places, maximumFractionDigits: 20 }).format(
    text as unknown as number,
  )
}

export const money: Formatter = (value) => {
  const { amount, currency } = value as Money
  const places = Math.max(2, amount.split('.')[1]?.length ?? 0)
  return numbers({
    style: 'currency',
    currency,
    minimumFractionDigits: places,
    maximumFractionDigits: places,
  }).format(amount as unknown as number)
}

export const yesNo: Formatter = (value) => (value === true ? 'Yes' : 'No')

export const choice: Formatter = (value, heading) =>
  heading.choices?.find((c) => c.key === value)?.label ?? String(value)

export const choices: Formatter = (value, heading) =>
  (value as string[]).map((key) => choice(key, heading)).join(', ')

/** What stands for a record or a file. */
export const label: Formatter = (value) => (value as { label?: string }).label ?? ''
