// What the site script works out by itself, without a browser.
import { describe, expect, it } from 'vitest'
import { label, sentence, split, value } from './countdown'
import { holds, type Node } from './remainder'
import { fitting } from './shared'
import type { Count } from './shapes'

describe('a countdown', () => {
  const units = [86_400, 3600, 60, 1]
  it('rounds what is left up and what has passed down, in the smallest unit (rule C2)', () => {
    expect(split(90_061_000, units)).toEqual([1, 1, 1, 1])
    expect(split(90_060_001, units)).toEqual([1, 1, 1, 1])
    expect(split(90_061_999, units, true)).toEqual([1, 1, 1, 1])
    expect(split(59_001, [3600, 60])).toEqual([0, 1])
    expect(split(-5, units)).toEqual([0, 0, 0, 0])
  })
  it('is said by the plural forms of its language', () => {
    const count = (lang: string, full: Record<string, string>): Count =>
      ({ kind: 'to', then: 'disappear', lang, units: [86_400], full: [full] }) as Count
    expect(sentence([1], count('en', { one: '{0} day', other: '{0} days' }))).toBe('1 day')
    expect(sentence([2], count('pl', { one: '{0} dzień', few: '{0} dni', many: '{0} dni', other: '{0} dnia' }))).toBe(
      '2 dni',
    )
    expect(sentence([2], count('ar', { two: 'يومان', other: '{0} يوم' })), 'a dual without a number').toBe('يومان')
    expect(label({ one: '{0} hour', other: '{0} hours' }, 7, 'en')).toBe('hours')
  })
  it('counts a number from its beginning to its end and no further', () => {
    const number = { begins: 1000, from: 10, to: 13, size: 1, times: 1, per: 500 }
    for (const [at, is] of [
      [0, 10],
      [1000, 10],
      [1499, 10],
      [1500, 11],
      [2500, 13],
      [9e9, 13],
    ])
      expect(value(at!, number), String(at)).toBe(is)
  })
})

describe('a remainder (rule A5)', () => {
  const scroll: Node = { fact: 'view.scroll', is: 'gte', value: 30 }
  const clicked: Node = { fact: 'view.clicked', is: 'has', value: '#fares' }
  it('holds once what it waits for has come true', () => {
    expect(holds(scroll, {})).toBe(false)
    expect(holds(scroll, { 'view.scroll': 30 })).toBe(true)
    expect(holds({ all: [scroll, clicked] }, { 'view.scroll': 40 })).toBe(false)
    expect(holds({ any: [scroll, clicked] }, { 'view.clicked': ['#fares'] })).toBe(true)
    expect(holds({ none: [clicked] }, {})).toBe(true)
    expect(holds({ none: [clicked] }, { 'view.clicked': ['#fares'] })).toBe(false)
  })
})

describe('what all hosts of a domain share', () => {
  const read = (value: string) => JSON.parse(decodeURIComponent(value.replace(/'/g, '%22')))
  it('is the memory, without what this host alone has to tell, in characters that a cookie may hold', () => {
    const all = {
      notices: { gale: { closed: '2026-12-04T10:00:00Z' } },
      untold: ['x'],
      consent: { granted: ['a;b', 'it\'s, "so"'] },
    }
    const value = fitting(all as never)
    expect(value).toMatch(/^[\x21\x23-\x2b\x2d-\x3a\x3c-\x5b\x5d-\x7e]*$/) // RFC 6265 §4.1.1, cookie-octet
    expect(read(value)).toEqual({ notices: all.notices, consent: all.consent })
  })
  it('loses the oldest of what is too long, and never grows over the limit', () => {
    const notices: Record<string, { closed?: string; shown?: string[] }> = {}
    for (let i = 0; i < 200; i++)
      notices[`notice-${i}`] = {
        closed: `2026-${String((i % 12) + 1).padStart(2, '0')}-04T10:00:00Z`,
        shown: Array.from({ length: 60 }, () => '2026-01-01T00:00:00Z'),
      }
    const value = fitting({ notices })
    expect(value.length).toBeLessThanOrEqual(3800)
    const kept = Object.values(read(value).notices as typeof notices)
    expect(kept.length).toBeGreaterThan(20)
    expect(
      kept.every((n) => n.closed! >= '2026-07'),
      'the latest are left',
    ).toBe(true)
  })
})
