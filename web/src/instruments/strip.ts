// Geometry of a strip of time: instants as shares of its width.
import type { Window } from '../api/client'
import { instantOf, offset } from './time'

/** Where an instant lies on a strip, in percent of its width; outside of it, its nearer end. */
export function place(instant: string | Date, from: string, until: string): number {
  const a = new Date(from).getTime()
  const b = new Date(until).getTime()
  const share = (new Date(instant).getTime() - a) / (b - a)
  return 100 * Math.min(1, Math.max(0, share))
}

export interface Tick {
  /** percent */
  at: number
  label: string
  /** A day that begins a week or a month: drawn longer. */
  major: boolean
}

const hour = 3_600_000

/**
 * The marks of a scale of about `width` px: quarters of an hour, hours, days, weeks or months, whichever have room for
 * their labels.
 */
export function ticks(from: string, until: string, zone: string, width: number): Tick[] {
  const a = new Date(from).getTime()
  const b = new Date(until).getTime()
  const room = Math.max(2, Math.floor(width / 64))
  const hours = (b - a) / hour
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    hour: 'numeric',
    minute: '2-digit',
    hourCycle: 'h23',
    weekday: 'short',
    day: 'numeric',
    month: 'short',
  })
  const step = [0.25, 0.5, 1, 3, 6, 12, 24, 48, 168, 336, 730].find((s) => hours / s <= room) ?? 1460
  /** Of a long strip, every so many months have a mark. */
  const months = [1, 2, 3, 6].find((m) => hours / 730 / m <= room) ?? 12
  const out: Tick[] = []
  let lastMonth = ''
  const grid = Math.min(step, 1) * hour
  let t = Math.ceil(a / grid) * grid
  for (let next = t; t < b; t = next) {
    const p = Object.fromEntries(parts.formatToParts(t).map((x) => [x.type, x.value]))
    const h = Number(p.hour)
    // Marks of days stand at midnight only: go on to the hour before the next one.
    next = t + (step < 24 ? grid : Math.max(1, 22 - h) * hour)
    let label = ''
    let major = false
    const minutes = Number(p.minute)
    if (step < 24) {
      if ((h + minutes / 60) % step !== 0) continue
      const midnight = h === 0 && minutes === 0
      label = midnight ? `${p.weekday} ${p.day}` : `${String(h).padStart(2, '0')}:${String(minutes).padStart(2, '0')}`
      major = midnight || (step < 1 && minutes === 0)
    } else {
      if (h !== 0 || minutes !== 0) continue
      const day = Math.round((t + offset(t, zone)) / (24 * hour))
      if (step <= 48) {
        if (step === 48 && day % 2) continue
        label = `${p.weekday} ${p.day}`
        major = p.weekday === 'Mon'
      } else if (step < 700) {
        if ((day + 3) % (step / 24) !== 0) continue // weeks begin on Monday
        label = `${p.day} ${p.month}`
        major = p.month !== lastMonth
      } else {
        const shown = new Date(t + offset(t, zone))
        if (p.day !== '1' || shown.getUTCMonth() % months) continue
        major = shown.getUTCMonth() === 0
        label = major ? String(shown.getUTCFullYear()) : (p.month ?? '')
      }
    }
    lastMonth = p.month ?? ''
    if (((b - t) / (b - a)) * width < 48) break // no room for its label
    out.push({ at: (100 * (t - a)) / (b - a), label, major })
  }
  return out
}

/**
 * An instant on the grid that a strip's length allows: whole hours, five minutes on a short one, one on a very short
 * one.
 */
export function snapped(t: number, from: string, until: string): Date {
  const length = new Date(until).getTime() - new Date(from).getTime()
  const snap = length > 4 * 24 * hour ? hour : length > 3 * hour ? hour / 12 : hour / 60
  return new Date(Math.round(t / snap) * snap)
}

/** The instant at a share of a strip, on its grid. */
export function instantAt(share: number, from: string, until: string): Date {
  const a = new Date(from).getTime()
  const b = new Date(until).getTime()
  return snapped(a + Math.min(1, Math.max(0, share)) * (b - a), from, until)
}

/** An end of a window of a plan, or of the countdown, where it lies on a strip. */
export interface End {
  window: number
  end: 'from' | 'until' | 'countdown'
  at: Date
}

/**
 * The ends of a plan's windows that can be moved on the strip. An end of a window that repeats would move every one.
 */
export function ends(windows: Window[], zone: string, from: string, until: string): End[] {
  const inside = (at: Date) => at >= new Date(from) && at <= new Date(until)
  return windows.flatMap((w, window) =>
    w.rule
      ? []
      : (['from', 'until'] as const).flatMap((end) => {
          const at = w[end] && instantOf(w[end]!, zone)
          return at && inside(at) ? [{ window, end, at }] : []
        }),
  )
}

/** A window of a plan that has both its ends, as a whole. */
export interface Whole {
  window: number
  from: Date
  until: Date
}

/**
 * The windows of a plan that can be moved as a whole on the strip: those with both ends that do not repeat and lie on
 * it, at least in part.
 */
export function wholes(windows: Window[], zone: string, from: string, until: string): Whole[] {
  return windows.flatMap((w, window) => {
    if (w.rule || !w.from || !w.until) return []
    const whole = { window, from: instantOf(w.from, zone), until: instantOf(w.until, zone) }
    return whole.from < new Date(until) && whole.until > new Date(from) ? [whole] : []
  })
}
