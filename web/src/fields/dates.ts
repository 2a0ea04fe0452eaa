import { daysLater, instants, today, wallAt, type Day, type Wall } from './zone'

/**
 * What somebody wrote, as it travels; or what is wrong with it. The second value is the later
 * point in time where clocks are put back and show it twice.
 */
export type Written = { value: string; later?: string } | { wrong: string }

const months = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
const weekdays = ['sun', 'mon', 'tue', 'wed', 'thu', 'fri', 'sat']
/** Whether the person writes the month before the day when both are numbers. */
const monthFirst =
  new Intl.DateTimeFormat(undefined, { month: 'numeric', day: 'numeric' }).formatToParts(0)[0].type ===
  'month'

const isDay = (d: string) => /^\d{4}-\d\d-\d\d$/.test(d)

/** The date of a year, month and day, if there is one. */
function dayOf(year: number, month: number, day: number): Day | undefined {
  const two = (n: number) => String(n).padStart(2, '0')
  const text = `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}`
  const at = new Date(text + 'T00:00:00Z')
  if (year < 1 || year > 9999 || Number.isNaN(at.getTime())) return undefined
  return at.toISOString().slice(0, 10) === text ? text : undefined
}

/** A year as written: in full, the last two digits, or none, which is the nearest. */
function withYear(year: string | undefined, month: number, day: number): Day | undefined {
  const now = Number(today().slice(0, 4))
  if (year?.length === 2) {
    const near = now - (now % 100) + Number(year)
    return dayOf(near > now + 20 ? near - 100 : near, month, day)
  }
  if (year !== undefined) return dayOf(Number(year), month, day)
  const far = (d: Day) => Math.abs(Date.parse(d) - Date.parse(today()))
  return [now - 1, now, now + 1]
    .map((y) => dayOf(y, month, day))
    .filter((d) => d !== undefined)
    .sort((a, b) => far(a) - far(b))[0]
}

const monthOf = (word: string) => months.indexOf(word.slice(0, 3)) + 1

/** The date so many days, weeks, months or years from another; the last of a month stays in it. */
function moved(from: Day, n: number, unit: string): Day | undefined {
  if (unit === 'd' || unit === 'w') {
    const to = daysLater(from, unit === 'w' ? 7 * n : n)
    return isDay(to) ? to : undefined
  }
  const [year, month, day] = from.split('-').map(Number)
  const index = year * 12 + month - 1 + (unit === 'y' ? 12 * n : n)
  const [y, m] = [Math.floor(index / 12), (index % 12) + 1]
  for (let d = day; d > 27; d--) {
    const there = dayOf(y, m, d)
    if (there) return there
  }
  return dayOf(y, m, Math.min(day, 27))
}

type Form = [RegExp, (g: string[]) => Day | undefined]

const word = '[a-z]{3,9}\\.?'
const forms: Form[] = [
  [/^(today|now)$/, () => today()],
  [/^tomorrow$/, () => daysLater(today(), 1)],
  [/^yesterday$/, () => daysLater(today(), -1)],
  [/^([+-]\d{1,5}) ?(d|w|m|y)[a-z]*$/, ([n, unit]) => moved(today(), Number(n), unit)],
  [/^in (\d{1,5}) ?(d|w|m|y)[a-z]*$/, ([n, unit]) => moved(today(), Number(n), unit)],
  [/^(\d{1,5}) ?(d|w|m|y)[a-z]* ago$/, ([n, unit]) => moved(today(), -Number(n), unit)],
  [
    /^(?:next )?(sun|mon|tue|wed|thu|fri|sat)[a-z]*$/,
    ([name]) => {
      const ahead = weekdays.indexOf(name) - new Date(today() + 'T00:00:00Z').getUTCDay()
      return daysLater(today(), ahead > 0 ? ahead : ahead + 7)
    },
  ],
  [/^(\d{4})-(\d{1,2})-(\d{1,2})$/, ([y, m, d]) => dayOf(Number(y), Number(m), Number(d))],
  [/^(\d{1,2})\.(\d{1,2})\.(?: ?(\d{4}|\d\d))?$/, ([d, m, y]) => withYear(y, Number(m), Number(d))],
  [
    /^(\d{1,2})\/(\d{1,2})(?:\/(\d{4}|\d\d))?$/,
    ([a, b, y]) => withYear(y, Number(monthFirst ? a : b), Number(monthFirst ? b : a)),
  ],
  [
    new RegExp(`^(\\d{1,2})(?:st|nd|rd|th)?\\.?[ -]?(${word})(?:,?[ -]?(\\d{4}|\\d\\d))?$`),
    ([d, m, y]) => (monthOf(m) ? withYear(y, monthOf(m), Number(d)) : undefined),
  ],
  [
    new RegExp(`^(${word}) ?(\\d{1,2})(?:st|nd|rd|th)?(?:, ?| )?(\\d{4})?$`),
    ([m, d, y]) => (monthOf(m) ? withYear(y, monthOf(m), Number(d)) : undefined),
  ],
]

function readDay(text: string): Day | undefined {
  // A weekday before a date is decoration.
  const bare = text.replace(/^(?:sun|mon|tue|wed|thu|fri|sat)[a-z]*,? (?=\d)/, '')
  for (const [form, day] of forms) {
    const found = form.exec(bare)
    if (found) return day(found.slice(1))
  }
  return undefined
}

/** A time of day in seconds. */
function readTime(text: string): number | undefined {
  const found = /^(\d{1,2})(?::(\d\d)(?::(\d\d))?)? ?(am|pm|h)?$/.exec(text)
  if (!found) return undefined
  const [, h, m = '0', s = '0', half] = found
  let hour = Number(h)
  if (half === 'am' || half === 'pm') {
    if (hour < 1 || hour > 12) return undefined
    hour = (hour % 12) + (half === 'pm' ? 12 : 0)
  }
  if (hour > 23 || Number(m) > 59 || Number(s) > 59) return undefined
  return hour * 3600 + Number(m) * 60 + Number(s)
}

/** A date and a time of day; without a date it is today, without a time midnight. */
function readWall(text: string): Wall | undefined {
  const whole = readDay(text)
  if (whole) return { day: whole, seconds: 0 }
  const only = readTime(text)
  if (only !== undefined) return { day: today(), seconds: only }
  // The time is what comes last, behind a blank, a comma, "at" or the T of the standard.
  for (const split of text.matchAll(/,? at |, | |(?<=\d)t(?=\d)/g)) {
    const day = readDay(text.slice(0, split.index))
    const seconds = readTime(text.slice(split.index + split[0].length))
    if (day && seconds !== undefined) return { day, seconds }
  }
  return undefined
}

const tidy = (text: string) => text.trim().toLowerCase().replace(/\s+/g, ' ')

export function readDate(text: string): Written {
  const day = readDay(tidy(text))
  return day ? { value: day } : { wrong: 'Not a date. Write 3 Dec 2026, tomorrow, Friday or +2w.' }
}

export function readDateTime(text: string): Written {
  const clean = tidy(text)
  const later = /^\+(\d{1,4}) ?(h|min)[a-z]*$/.exec(clean)
  if (clean === 'now' || later) {
    const ms = later ? Number(later[1]) * (later[2] === 'h' ? 3_600_000 : 60_000) : 0
    const minute = Math.floor((Date.now() + ms) / 60_000) * 60_000
    return { value: new Date(minute).toISOString() }
  }
  const wall = readWall(clean)
  if (!wall) return { wrong: 'Not a date and time. Write 3 Dec 14:30, tomorrow 9 or +2h.' }
  const [first, second] = instants(wall)
  if (!first) return { wrong: 'There is no such time on that day: clocks are put forward over it.' }
  return { value: first.toISOString(), later: second?.toISOString() }
}

const full = new Intl.DateTimeFormat('en-GB', {
  weekday: 'long',
  year: 'numeric',
  month: 'long',
  day: 'numeric',
  timeZone: 'UTC',
})

const clock = (seconds: number) => {
  const two = (n: number) => String(Math.floor(n)).padStart(2, '0')
  const minutes = `${two(seconds / 3600)}:${two((seconds % 3600) / 60)}`
  return seconds % 60 ? `${minutes}:${two(seconds % 60)}` : minutes
}

const at = (d: Day) => new Date(d + 'T00:00:00Z')

/** A value as it stands in its input, which reads back as the same. */
export function writtenDate(value: string, timed: boolean): string {
  const wall = wallOf(value, timed)
  if (!wall) return value
  const [year, month, day] = wall.day.split('-')
  const name = months[Number(month) - 1]
  const date = `${Number(day)} ${name[0].toUpperCase()}${name.slice(1)} ${year}`
  return date + (timed ? `, ${clock(wall.seconds)}` : '')
}

/** A value in full, so that whoever wrote "fri 9" sees what it was taken for. */
export function inFull(value: string, timed: boolean): string {
  const wall = wallOf(value, timed)
  if (!wall) return ''
  return full.format(at(wall.day)) + (timed ? `, ${clock(wall.seconds)}` : '')
}

/** What the clocks show at a value; none when it is no date. */
export function wallOf(value: string, timed: boolean): Wall | undefined {
  if (!timed)
    return isDay(value) && !Number.isNaN(at(value).getTime()) ? { day: value, seconds: 0 } : undefined
  if (!/^\d{4}-\d\d-\d\dT/.test(value)) return undefined
  const when = new Date(value)
  return Number.isNaN(when.getTime()) ? undefined : wallAt(when)
}
