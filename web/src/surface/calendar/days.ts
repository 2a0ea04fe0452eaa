import type { RowView } from '@/api/types'
import { type Day, daysLater, wallAt, weekday } from '@/fields/zone'

/** A record on a calendar: the days on which it is, and when on the first. */
export interface Entry {
  id: number
  label: string
  from: Day
  /** The last day on which it is. */
  to: Day
  /** Seconds since the first day began; nothing where it is known by days alone. */
  at?: number
  /** What it is the line of, as it travels. */
  by: unknown
  cells: unknown[]
}

/** The months and weeks of a calendar begin on Monday. */
export const weekOf = (day: Day): Day => daysLater(day, -weekday(day))

export const monthOf = (day: Day): Day => day.slice(0, 8) + '01'

export function monthLater(day: Day, months: number): Day {
  const [y, m] = day.split('-').map(Number)
  return new Date(Date.UTC(y, m - 1 + months, 1)).toISOString().slice(0, 10)
}

/** The days from one to another, which is not among them. */
export function daysFrom(from: Day, until: Day): Day[] {
  const out: Day[] = []
  for (let day = from; day < until; day = daysLater(day, 1)) out.push(day)
  return out
}

/** The whole weeks that a month lies in. */
export function weeksOf(month: Day): { from: Day; until: Day } {
  const last = daysLater(monthLater(month, 1), -1)
  return { from: weekOf(month), until: daysLater(weekOf(last), 7) }
}

interface When {
  day: Day
  at?: number
}

/** A day, or a point in time as the clocks of the house have it. */
function when(value: unknown): When | undefined {
  if (typeof value !== 'string') return undefined
  if (!value.includes('T')) return { day: value }
  const wall = wallAt(new Date(value))
  return { day: wall.day, at: wall.seconds }
}

/** Rows as entries, where the first cells are when they begin, until when they last and what they are the line of. */
export function entriesOf(rows: RowView[], has: { ends: boolean; by: boolean }): Entry[] {
  const lead = 1 + Number(has.ends) + Number(has.by)
  return rows.flatMap((row) => {
    const start = when(row.cells[0])
    if (!start) return []
    const end = has.ends ? when(row.cells[1]) : undefined
    // What ends as a day begins was over the day before.
    const last = end && end.at === 0 && end.day > start.day ? daysLater(end.day, -1) : end?.day
    return [
      {
        id: row.id,
        label: row.label,
        from: start.day,
        to: last && last > start.day ? last : start.day,
        at: start.at,
        by: has.by ? row.cells[1 + Number(has.ends)] : undefined,
        cells: row.cells.slice(lead),
      },
    ]
  })
}

/** What is on a day, whole days first, then by the clock. */
export function onDay(entries: Entry[], day: Day): Entry[] {
  return entries
    .filter((e) => e.from <= day && day <= e.to)
    .sort((a, b) => startsOn(a, day) - startsOn(b, day) || a.label.localeCompare(b.label))
}

const startsOn = (e: Entry, day: Day) => (e.from < day ? -1 : (e.at ?? -1))

/** The clock at a number of seconds since a day began. */
export function clock(seconds: number): string {
  const at = new Date(Date.UTC(2000, 0, 1, 0, 0, seconds))
  return at.toLocaleTimeString(undefined, { hour: 'numeric', minute: '2-digit', timeZone: 'UTC' })
}

const formats = {
  month: new Intl.DateTimeFormat(undefined, { month: 'long', year: 'numeric', timeZone: 'UTC' }),
  day: new Intl.DateTimeFormat(undefined, {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    timeZone: 'UTC',
  }),
  short: new Intl.DateTimeFormat(undefined, { weekday: 'short', day: 'numeric', timeZone: 'UTC' }),
  weekday: new Intl.DateTimeFormat(undefined, { weekday: 'short', timeZone: 'UTC' }),
}

/** A day as a person reads it. */
export const words = (day: Day, as: keyof typeof formats): string =>
  formats[as].format(new Date(day + 'T00:00:00Z'))

/** From one day to another as a person reads it. */
export function stretchWords(from: Day, to: Day): string {
  const at = (day: Day) => new Date(day + 'T00:00:00Z')
  return new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeZone: 'UTC' }).formatRange(
    at(from),
    at(to),
  )
}
