// Instants on a wall clock, for people.
import { Temporal } from 'temporal-polyfill'

/** A format is made once for each zone: making one takes longer than using it. */
function once(locale: string, options: Intl.DateTimeFormatOptions): (zone: string) => Intl.DateTimeFormat {
  const made = new Map<string, Intl.DateTimeFormat>()
  return (zone) => {
    let f = made.get(zone)
    if (!f) made.set(zone, (f = new Intl.DateTimeFormat(locale, { ...options, timeZone: zone })))
    return f
  }
}
const parts = {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
  hourCycle: 'h23',
} as const
const thisYear = once('en-GB', parts)
const anyYear = once('en-GB', { ...parts, year: 'numeric' })
const yearOf = once('en-GB', { year: 'numeric' })
const toMinutes = once('sv-SE', { dateStyle: 'short', timeStyle: 'short' })
const toSeconds = once('sv-SE', { dateStyle: 'short', timeStyle: 'medium' })

/** "Fri 27 Nov 09:00", with the year where it is not this one. */
export function say(instant: string | Date, zone: string, now: Date = new Date()): string {
  const t = new Date(instant)
  const format = yearOf(zone).format(t) === yearOf(zone).format(now) ? thisYear : anyYear
  return format(zone).format(t).replaceAll(',', '').replace(' at ', ' ')
}

/** The wall clock's date and time as "2026-11-27T09:00". */
export function local(instant: string | Date, zone: string): string {
  return toMinutes(zone).format(new Date(instant)).replace(' ', 'T')
}

/** The zone's offset from UTC at an instant, ms. */
export function offset(t: number, zone: string): number {
  return Date.parse(toSeconds(zone).format(t).replace(' ', 'T') + 'Z') - t
}

/** The instant that a local time is in a zone: rule S3 of a time that the clock skips, or that comes twice. */
export function instantOf(local: string, zone: string): Date {
  // What Temporal calls compatible is what RFC 5545 §3.3.5 asks for.
  return new Date(Temporal.PlainDateTime.from(local).toZonedDateTime(zone).epochMilliseconds)
}

/** How long that is, roughly: "3 hours", "2 days". */
export function lasting(hours: number): string {
  const say = (n: number, unit: string) => `${n} ${unit}${n === 1 ? '' : 's'}`
  if (hours < 1) return say(Math.max(Math.round(hours * 60), 1), 'minute')
  return hours < 48 ? say(Math.round(hours), 'hour') : say(Math.round(hours / 24), 'day')
}

/** How long until then, roughly. */
export function away(from: string | Date, to: string | Date): string {
  return lasting((new Date(to).getTime() - new Date(from).getTime()) / 3_600_000)
}

/** A local date and time so many days later on the wall clock. */
export const later = (at: string, days: number): string =>
  new Date(Date.parse(at + 'Z') + days * 86_400_000).toISOString().slice(0, 16)

/** Noon of the day after a local date and time. */
export const noonAfter = (at: string): string => later(at, 1).slice(0, 11) + '12:00'
