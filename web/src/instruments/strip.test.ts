import { describe, expect, it } from 'vitest'
import { ends, instantAt, place, snapped, ticks, wholes } from './strip'
import { away, instantOf, local, say } from './time'

describe('place', () => {
  const from = '2026-12-01T00:00:00Z'
  const until = '2026-12-11T00:00:00Z'
  it.each([
    ['at the start', from, 0],
    ['at the end', until, 100],
    ['in the middle', '2026-12-06T00:00:00Z', 50],
    ['before the strip, at its start', '2026-11-01T00:00:00Z', 0],
    ['after the strip, at its end', '2027-11-01T00:00:00Z', 100],
  ])('%s', (_, at, want) => expect(place(at, from, until)).toBe(want))
})

describe('ticks', () => {
  it('have room for their labels at every span and stand in order', () => {
    for (const days of [1, 2, 14, 42, 365, 730]) {
      const from = new Date('2026-10-20T05:00:00Z')
      const until = new Date(from.getTime() + days * 86_400_000)
      const t = ticks(from.toISOString(), until.toISOString(), 'Europe/London', 640)
      expect(t.length, `${days} days`).toBeGreaterThan(2)
      expect(t.length, `${days} days`).toBeLessThanOrEqual(24)
      t.slice(1).forEach((x, i) => expect(x.at).toBeGreaterThan(t[i]!.at))
    }
  })
  it('stand at local midnight on both sides of a clock change', () => {
    const t = ticks('2026-10-24T00:00:00Z', '2026-10-28T00:00:00Z', 'Europe/London', 640)
    const midnights = t
      .filter((x) => /^(Sun|Mon|Tue|Wed)/.test(x.label))
      .map((x) => Math.round((x.at / 100) * 96 * 10) / 10)
    expect(midnights).toEqual([23, 48, 72]) // 25 Oct begins in summer time, the 26th in winter time
  })
})

describe('times for people', () => {
  it('are said on the wall clock of the zone', () => {
    const now = new Date('2026-11-25T12:00:00Z')
    expect(say('2026-11-27T09:00:00Z', 'Europe/London', now)).toBe('Fri 27 Nov 09:00')
    expect(say('2026-11-27T09:00:00Z', 'Europe/Berlin', now)).toBe('Fri 27 Nov 10:00')
    expect(say('2027-01-08T00:00:00Z', 'Europe/London', now)).toBe('Fri 8 Jan 2027 00:00')
    expect(local('2026-07-01T09:00:00Z', 'Europe/London')).toBe('2026-07-01T10:00')
  })
  it.each([
    ['2026-11-25T12:00:20Z', '1 minute'],
    ['2026-11-25T12:45:00Z', '45 minutes'],
    ['2026-11-25T15:00:00Z', '3 hours'],
    ['2026-11-29T12:00:00Z', '4 days'],
  ])('how long until %s', (to, want) => expect(away('2026-11-25T12:00:00Z', to)).toBe(want))
})

describe('a short strip', () => {
  it('is ruled by quarters of an hour', () => {
    const labels = ticks('2026-12-04T11:50:00Z', '2026-12-04T12:50:00Z', 'Europe/London', 900).map((t) => t.label)
    expect(labels).toEqual(['12:00', '12:15', '12:30', '12:45'])
    expect(ticks('2026-12-04T11:50:00Z', '2026-12-04T12:50:00Z', 'Asia/Kathmandu', 900).map((t) => t.label)[0]).toBe(
      '17:45',
    )
  })
  it('and one of some hours by hours', () => {
    expect(ticks('2026-12-04T21:00:00Z', '2026-12-05T03:00:00Z', 'Europe/London', 900).map((t) => t.label)).toContain(
      'Sat 5',
    )
  })
})

describe('a strip of two years', () => {
  it('names the years, and as many months as have room', () => {
    const marks = ticks('2026-08-01T00:00:00Z', '2028-08-01T00:00:00Z', 'Europe/London', 640)
    expect(marks.filter((t) => t.major).map((t) => t.label)).toEqual(['2027', '2028'])
    expect(marks.map((t) => t.label).slice(0, 4)).toEqual(['Oct', '2027', 'Apr', 'Jul'])
  })
})

describe('ends that can be moved', () => {
  const [from, until] = ['2026-10-20T00:00:00Z', '2026-10-30T00:00:00Z']
  it('lie where the clock shows them, on both sides of a change', () => {
    const found = ends(
      [
        { from: '2026-10-24T09:00', until: '2026-10-25T09:00' },
        { from: '2026-10-26T09:00', until: '2026-10-26T10:00', rule: 'FREQ=DAILY' },
        { until: '2027-01-01T00:00' },
      ],
      'Europe/London',
      from,
      until,
    )
    expect(found.map((e) => [e.window, e.end, e.at.toISOString()])).toEqual([
      [0, 'from', '2026-10-24T08:00:00.000Z'],
      [0, 'until', '2026-10-25T09:00:00.000Z'],
    ])
  })
  it('are read back as they were', () => {
    for (const zone of ['Europe/London', 'America/St_Johns', 'Australia/Lord_Howe', 'Asia/Kathmandu'])
      for (let day = 1; day < 31; day++) {
        const at = `2026-10-${String(day).padStart(2, '0')}T12:45`
        expect(local(instantOf(at, zone), zone)).toBe(at)
      }
  })
  it('are read as the core does where a clock changes: with the offset before the gap, and first of two', () => {
    // Rule S3, RFC 5545 §3.3.5; the dates from the IANA time zone database.
    for (const [at, zone, utc] of [
      ['2026-03-29T01:30', 'Europe/London', '2026-03-29T01:30:00.000Z'],
      ['2026-10-25T01:30', 'Europe/London', '2026-10-25T00:30:00.000Z'],
      ['2026-03-08T02:30', 'America/New_York', '2026-03-08T07:30:00.000Z'],
      ['2026-11-01T01:30', 'America/New_York', '2026-11-01T05:30:00.000Z'],
      ['2026-10-04T02:15', 'Australia/Lord_Howe', '2026-10-03T15:45:00.000Z'],
    ])
      expect(instantOf(at!, zone!).toISOString(), `${at} ${zone}`).toBe(utc)
  })
  it('snap to the hour on a long strip and to five minutes on a short one', () => {
    expect(instantAt(0.5011, from, until).toISOString()).toBe('2026-10-25T00:00:00.000Z')
    expect(instantAt(0.5011, from, '2026-10-20T10:00:00Z').toISOString()).toBe('2026-10-20T05:00:00.000Z')
    expect(instantAt(7, from, until).toISOString()).toBe('2026-10-30T00:00:00.000Z')
  })
})

describe('whole windows', () => {
  const zone = 'Europe/London'
  const on = ['2026-11-20T00:00:00Z', '2026-12-20T00:00:00Z'] as const
  it('are those with both ends that do not repeat and touch the strip', () => {
    const windows = [
      { from: '2026-11-18T00:00', until: '2026-11-21T00:00' },
      { from: '2026-12-01T09:00', until: '2026-12-02T09:00' },
      { from: '2026-12-01T09:00' },
      { until: '2026-12-01T09:00' },
      { from: '2026-12-01T09:00', until: '2026-12-01T10:00', rule: 'FREQ=DAILY' },
      { from: '2026-12-21T09:00', until: '2026-12-22T10:00' },
    ]
    expect(wholes(windows, zone, ...on).map((w) => w.window)).toEqual([0, 1])
    expect(wholes(windows, zone, ...on)[1]!.from.toISOString()).toBe('2026-12-01T09:00:00.000Z')
  })
  it('snap to the grid that the length of the strip allows', () => {
    const t = Date.parse('2026-12-01T09:22:13Z')
    expect(snapped(t, ...on).toISOString()).toBe('2026-12-01T09:00:00.000Z')
    expect(snapped(t, '2026-12-01T00:00:00Z', '2026-12-02T00:00:00Z').toISOString()).toBe('2026-12-01T09:20:00.000Z')
    expect(snapped(t, '2026-12-01T09:00:00Z', '2026-12-01T10:00:00Z').toISOString()).toBe('2026-12-01T09:22:00.000Z')
  })
})
