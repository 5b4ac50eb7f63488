// Plain repeats as RRULE values (RFC 5545), and back. A rule that has more to
// it is kept as it is written.

export type Often = 'never' | 'hourly' | 'daily' | 'weekly' | 'monthday' | 'weekday' | 'yearly' | 'own'
export type Ends = 'never' | 'count' | 'until'

export interface Repeat {
  often: Often
  /** Every so many hours, days, weeks, months or years. */
  every: number
  /** Of a weekly repeat: MO, TU … */
  days: string[]
  ends: Ends
  count: number
  /** A day, such as 2026-12-24. */
  until: string
  /** As written, of an own rule. */
  rule: string
}

export const weekdays = [
  { value: 'MO', label: 'Mon' },
  { value: 'TU', label: 'Tue' },
  { value: 'WE', label: 'Wed' },
  { value: 'TH', label: 'Thu' },
  { value: 'FR', label: 'Fri' },
  { value: 'SA', label: 'Sat' },
  { value: 'SU', label: 'Sun' },
]

/** The weekday of a local time, such as FR. */
export function dayOf(from: string): string {
  return weekdays[(new Date(from + 'Z').getUTCDay() + 6) % 7]?.value ?? 'MO'
}

/** Which of its weekday in the month a local time is: 1 to 4, or -1 for one that may be the fifth. */
export function nthOf(from: string): number {
  const nth = Math.ceil(new Date(from + 'Z').getUTCDate() / 7)
  return nth > 4 ? -1 : nth
}

const frequencies: Record<string, string> = {
  hourly: 'HOURLY',
  daily: 'DAILY',
  weekly: 'WEEKLY',
  monthday: 'MONTHLY',
  weekday: 'MONTHLY',
  yearly: 'YEARLY',
}

/** Reads a rule of a window that starts at from. */
export function read(rule: string | undefined, from: string): Repeat {
  const r: Repeat = {
    often: 'never',
    every: 1,
    days: [dayOf(from)],
    ends: 'never',
    count: 5,
    until: from.slice(0, 10),
    rule: rule ?? '',
  }
  if (!rule) return r
  const parts = new Map(rule.split(';').map((p) => p.split('=') as [string, string]))
  const freq = parts.get('FREQ')
  const byDay = parts.get('BYDAY')
  const known = new Set(['FREQ', 'INTERVAL', 'COUNT', 'UNTIL', 'BYDAY', 'BYMONTHDAY'])
  r.every = Number(parts.get('INTERVAL') ?? 1)
  if (parts.has('COUNT')) [r.ends, r.count] = ['count', Number(parts.get('COUNT'))]
  const until = parts.get('UNTIL')
  if (until) [r.ends, r.until] = ['until', `${until.slice(0, 4)}-${until.slice(4, 6)}-${until.slice(6, 8)}`]
  if (byDay && freq === 'WEEKLY') r.days = byDay.split(',')
  r.often = ([...Object.entries(frequencies)].find(([, f]) => f === freq)?.[0] as Often) ?? 'own'
  if (freq === 'MONTHLY' && byDay) r.often = 'weekday'
  // What these words cannot say exactly is an own rule.
  if ([...parts.keys()].some((k) => !known.has(k)) || write(r, from) !== rule) r.often = 'own'
  return r
}

/** Writes a repeat as a rule; '' for none. */
export function write(r: Repeat, from: string): string {
  if (r.often === 'never') return ''
  if (r.often === 'own') return r.rule
  let out = `FREQ=${frequencies[r.often]}`
  if (r.every > 1) out += `;INTERVAL=${r.every}`
  if (r.often === 'weekly')
    out += `;BYDAY=${
      weekdays
        .filter((d) => r.days.includes(d.value))
        .map((d) => d.value)
        .join(',') || dayOf(from)
    }`
  if (r.often === 'weekday') out += `;BYDAY=${nthOf(from)}${dayOf(from)}`
  if (r.ends === 'count') out += `;COUNT=${r.count}`
  if (r.ends === 'until' && r.until) out += `;UNTIL=${r.until.replaceAll('-', '')}T235959`
  return out
}
