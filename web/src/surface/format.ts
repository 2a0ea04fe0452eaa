import type { Heading } from '@/api/types'
import { moment } from './zone'

interface Money {
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
function address(a: Address): string {
  const town = [a.postcode, a.town].filter(Boolean).join(' ')
  return [a.lines?.replaceAll('\n', ', '), town, a.country].filter(Boolean).join(', ')
}

const date = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeZone: 'UTC' })

// Making a format takes far longer than using it.
const formats = new Map<string, Intl.NumberFormat>()
function numbers(options: Intl.NumberFormatOptions): Intl.NumberFormat {
  const key = JSON.stringify(options)
  const made = formats.get(key) ?? new Intl.NumberFormat(undefined, options)
  formats.set(key, made)
  return made
}

/** An exact decimal in the person's locale, no digit lost on the way. */
function decimal(text: string): string {
  const places = text.split('.')[1]?.length ?? 0
  return numbers({ minimumFractionDigits: places, maximumFractionDigits: 20 }).format(
    text as unknown as number,
  )
}

function money(value: Money): string {
  const places = Math.max(2, value.amount.split('.')[1]?.length ?? 0)
  return numbers({
    style: 'currency',
    currency: value.currency,
    minimumFractionDigits: places,
    maximumFractionDigits: places,
  }).format(value.amount as unknown as number)
}

/** Why a value could not be computed, '' when it could. */
export function failure(value: unknown): string {
  return typeof value === 'object' && value !== null && 'failure' in value ? String(value.failure) : ''
}

/** A value as a person reads it. Empty is an empty text. */
export function format(heading: Pick<Heading, 'type' | 'prefix' | 'choices'>, value: unknown): string {
  if (value === null || value === undefined) return ''
  const why = failure(value)
  if (why) return why
  switch (heading.type) {
    case 'money':
      return money(value as Money)
    case 'decimal':
      return decimal(String(value))
    case 'whole_number':
      return decimal(String(value)) // beyond 2⁵³ it comes as text
    case 'running_number':
      return (heading.prefix ?? '') + String(value)
    case 'yes_no':
      return value === true ? 'Yes' : 'No'
    case 'date':
      return date.format(new Date(String(value)))
    case 'date_time':
      return moment(String(value))
    case 'choice':
      return heading.choices?.find((c) => c.key === value)?.label ?? String(value)
    case 'several_choices':
      return (value as string[])
        .map((key) => heading.choices?.find((c) => c.key === key)?.label ?? key)
        .join(', ')
    case 'address':
      return address(value as Address)
    case 'reference':
    case 'person':
    case 'picture':
    case 'file':
      return (value as { label?: string }).label ?? ''
  }
  return String(value)
}

const whole = ['phone', 'date', 'date_time', 'money', 'running_number', 'whole_number', 'decimal']

/** Whether a value reads badly when it is broken over lines. */
export function unbroken(heading: Heading): boolean {
  return whole.includes(heading.type)
}

const long = ['address', 'long_text']

/** Whether a value wants room to be read. */
export function roomy(heading: Heading): boolean {
  return long.includes(heading.type)
}

const rightAligned = ['money', 'decimal', 'whole_number']

export function alignment(heading: Heading): 'right' | 'left' {
  return rightAligned.includes(heading.type) ? 'right' : 'left'
}
