import { shallowRef } from 'vue'

/** A date as it travels: 2026-12-03. */
export type Day = string

/** What a calendar and a clock on the wall show. */
export interface Wall {
  day: Day
  /** Seconds since the day began on an even day. */
  seconds: number
}

/**
 * The zone in which every date and time is entered and shown. It is the app's, which comes
 * with the session, never the browser's.
 */
const zone = shallowRef(clocks('UTC'))

function clocks(name: string) {
  const parts = { year: 'numeric', month: '2-digit', day: '2-digit', era: 'short' } as const
  const time = { hour: '2-digit', minute: '2-digit', second: '2-digit', hourCycle: 'h23' } as const
  return {
    name,
    shown: new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short', timeZone: name }),
    wall: new Intl.DateTimeFormat('en-GB', { ...parts, ...time, timeZone: name }),
  }
}

export function setZone(name: string): void {
  if (name !== zone.value.name) zone.value = clocks(name)
}

export const zoneName = () => zone.value.name

/** A point in time as a person reads it. */
export const moment = (at: string) => zone.value.shown.format(new Date(at))

/** What the clocks show at a point in time. */
export function wallAt(at: Date): Wall {
  const p = Object.fromEntries(zone.value.wall.formatToParts(at).map((x) => [x.type, x.value]))
  return {
    day: `${p.year.padStart(4, '0')}-${p.month}-${p.day}`,
    seconds: Number(p.hour) * 3600 + Number(p.minute) * 60 + Number(p.second),
  }
}

export const today = (): Day => wallAt(new Date()).day

/** A date as a number of days. */
const count = (day: Day) => Date.parse(day + 'T00:00:00Z') / 86_400_000

/** The date so many days later. */
export function daysLater(day: Day, days: number): Day {
  return new Date((count(day) + days) * 86_400_000).toISOString().slice(0, 10)
}

/** The day of the week, 0 for Monday. */
export const weekday = (day: Day): number => (((count(day) + 3) % 7) + 7) % 7

/** How many days later one date is than another. */
export const daysBetween = (from: Day, to: Day): number => count(to) - count(from)

/**
 * The points in time at which the clocks show something: none where they were put forward
 * over it, two where they were put back, one otherwise.
 */
export function instants(wall: Wall): Date[] {
  const seen = count(wall.day) * 86_400_000 + wall.seconds * 1000
  const found = new Set<number>()
  // The difference to UTC is that of some point in time within a day of it.
  for (const near of [-86_400_000, 0, 86_400_000]) {
    const around = new Date(seen + near)
    const shown = wallAt(around)
    const ahead = count(shown.day) * 86_400_000 + shown.seconds * 1000 - around.getTime()
    const at = seen - Math.round(ahead / 1000) * 1000
    const back = wallAt(new Date(at))
    if (back.day === wall.day && back.seconds === wall.seconds) found.add(at)
  }
  return [...found].sort((a, b) => a - b).map((ms) => new Date(ms))
}
