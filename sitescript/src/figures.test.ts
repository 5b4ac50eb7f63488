// What is left, in figures and in words, by the table of cases of the core; in browsers the same is asked by
// e2e/countdown_test.go.
import { beforeEach, describe, expect, it } from 'vitest'
import cases from '../../core/countdown/testdata/cases.json'
import words from '../../core/countdown/units.json'
import { label, sentence, split, value, write } from './countdown'
import type { Count } from './shapes'

type Forms = Record<string, string>
const inWords = words as unknown as Record<string, { full: Record<string, Forms>; short: Record<string, Forms> }>
const lengths: Record<string, number> = { weeks: 604_800, days: 86_400, hours: 3600, minutes: 60, seconds: 1 }

describe('what is left (rules C2 and C3)', () => {
  it.each(cases)('$what', (c) => {
    const lang = [c.lang, c.lang.split('-')[0]!, 'en'].find((l) => inWords[l])!
    const forms = (size: 'full' | 'short') => c.units.map((u) => inWords[lang]![size][u]!)
    const figures = split(
      c.left,
      c.units.map((u) => lengths[u]!),
      c.up,
    )
    expect(figures).toEqual(c.figures)
    if (c.beside && c.labels !== 'none')
      expect(figures.map((n, i) => label(forms(c.labels === 'short' ? 'short' : 'full')[i]!, n, lang))).toEqual(
        c.beside,
      )
    expect(sentence(figures, { full: forms('full'), lang } as unknown as Count)).toBe(c.sentence)
  })
})

describe('a number that changes', () => {
  const stock = { begins: 1000, from: 100, to: 10, size: -5, times: 2, per: 1000 }
  it.each([
    [0, 100],
    [1000, 100],
    [1499, 100],
    [1500, 95],
    [2000, 90],
    [10_000, 10],
    [1e9, 10],
  ])('is at %d: %d', (at, n) => {
    expect(value(at, stock)).toBe(n)
  })
  it('rises to its end, goes on without one, and begins anew', () => {
    const up = { ...stock, from: 0, to: 20, size: 5 }
    expect([2000, 3000, 9000].map((at) => value(at, up))).toEqual([10, 20, 20])
    expect(value(9000, { ...up, to: undefined as never })).toBe(80)
    expect([2999, 3000, 3500].map((at) => value(at, up, 2000))).toEqual([15, 0, 5])
  })
})

describe('what is written', () => {
  let root: ShadowRoot
  const read = () => [...root.querySelectorAll('b,i')].map((e) => e.textContent).join(' ')
  const said = () => root.querySelector('.unseen')!.textContent
  const place = (n: number) => `<p class="count"><span class="unseen"></span>${'<b></b><i></i>'.repeat(n)}</p>`
  const count = (more: object) =>
    ({
      units: [3600, 60, 1],
      full: [inWords.en!.full.hours, inWords.en!.full.minutes, inWords.en!.full.seconds],
      lang: 'en',
      ...more,
    }) as unknown as Count
  beforeEach(() => {
    root = document.createElement('div').attachShadow({ mode: 'open' })
    root.innerHTML = place(3)
  })

  it('is figures with what they are, and a sentence that does not change every second', () => {
    write(root, count({}), 3_661_000, 1e12)
    expect(read()).toBe('1 hour 1 minute 1 second')
    expect(said()).toBe('1 hour, 1 minute, and 1 second')
    write(root, count({}), 3_602_000, 1e12 + 59_000)
    expect(read()).toBe('1 hour 0 minutes 2 seconds')
    expect(said()).toBe('1 hour, 1 minute, and 1 second')
    write(root, count({}), 3_601_000, 1e12 + 60_000)
    expect(said()).toBe('1 hour and 1 second')
    write(root, count({}), 60_000, 2e12)
    write(root, count({}), 50_001, 2e12 + 9_999)
    expect(said()).toBe('1 minute')
    write(root, count({}), 50_000, 2e12 + 10_000)
    expect(said(), 'every ten seconds in the last minute').toBe('50 seconds')
    write(root, count({}), 0, 2e12 + 10_001)
    expect(said(), 'reached').toBe('0 seconds')
  })

  it('counts up from a moment, bare, and with other labels', () => {
    write(root, count({ kind: 'since', bare: true }), -3_605_900, 1e12)
    expect(read().replace(/ +/g, ' ').trim()).toBe('1 00 05')
    write(root, count({ labels: [{ other: 'h' }, { other: 'm' }, { other: 's' }] }), 1000, 1e12)
    expect(read()).toBe('0 h 0 m 1 s')
  })

  it('is a number as the language writes it, a visitor’s own from when they met it', () => {
    root.innerHTML = place(1)
    const number = { begins: 1e12, from: 12_000, size: -1000, times: 1, per: 1000 }
    write(root, count({ number }), 1e6, 1e12 + 2000)
    expect([read().trim(), said()]).toEqual(['10,000', '10,000'])
    write(root, count({ number, lang: 'de' }), 1e6, 1e12 + 1000)
    expect(read().trim()).toBe('11.000')
    write(root, count({ number, kind: 'visitor', period: 60_000 }), 59_000, 5e12)
    expect(read().trim()).toBe('11,000')
    write(root, count({ number: { ...number, begins: 0 }, then: 'again', period: 5000 }), 1, 1000)
    expect(read().trim()).toBe('11,000')
    write(root, count({ number: { ...number, begins: 0 }, then: 'again', period: 5000 }), 1, 6000)
    expect(read().trim()).toBe('11,000')
  })
})
