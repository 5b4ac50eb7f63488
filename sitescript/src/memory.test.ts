import { beforeEach, describe, expect, it, vi } from 'vitest'
import { freshPage, instant, settle } from './testing/program'

type Memory = import('./memory').Memory
const name = 'mastflag.sundrey'
const stored = () => JSON.parse(localStorage.getItem(name) ?? 'null') as Record<string, unknown> | null
const at = (s: number) => new Date(instant + s * 1000).toISOString()

describe('what a visitor’s browser remembers', () => {
  let memory: Memory
  const open = async () => (memory = (await import('./memory')).remembered('sundrey'))
  beforeEach(async () => {
    await freshPage()
    await open()
  })

  it('is nothing at first, and writes nothing by itself', () => {
    expect(memory.visit('')).toEqual({ notices: {} })
    expect(stored()).toBeNull()
    expect(sessionStorage.length).toBe(0)
  })

  it('is each act with its time and how often; showings each by their own, the last hundred', async () => {
    memory.act('gale', 'closed', at(0))
    memory.act('gale', 'closed', at(1))
    memory.act('gale', 'clicked', at(2))
    for (let i = 0; i < 101; i++) memory.act('gale', 'shown', at(i))
    const { gale } = memory.kept.notices
    expect(gale).toMatchObject({ closed: at(1), clicked: at(2), counts: { closed: 2, clicked: 1, shown: 101 } })
    expect(gale!.shown).toHaveLength(100)
    expect([gale!.shown![0], gale!.shown![99]]).toEqual([at(1), at(100)])
    expect(stored()).toEqual({ notices: { gale } })
    await open()
    expect(memory.kept.notices.gale, 'on the next page, too').toEqual(gale)
  })

  it('is events, the last hundred of each', () => {
    for (let i = 0; i < 102; i++) memory.event('booking', at(i))
    expect(memory.visit('').events!.booking).toHaveLength(100)
    expect(memory.visit('').events!.booking![0]).toBe(at(2))
  })

  it('knows when its own countdown began, once', () => {
    expect(memory.meet('sale', at(0))).toBe(true)
    expect(memory.meet('sale', at(5))).toBe(false)
    expect(memory.kept.notices.sale!.met).toBe(at(0))
  })

  it('heeds what another tab has written meanwhile', () => {
    localStorage.setItem(name, JSON.stringify({ notices: { sale: { met: at(-9) }, gale: { closed: at(-5) } } }))
    expect(memory.meet('sale', at(0)), 'the other tab met it').toBe(false)
    memory.act('gale', 'clicked', at(0))
    expect(stored()).toEqual({
      notices: { sale: { met: at(-9) }, gale: { closed: at(-5), clicked: at(0), counts: { clicked: 1 } } },
    })
  })

  it('has one session in a tab', async () => {
    memory.begin(at(0))
    memory.begin(at(1))
    expect(memory.visit('v')).toEqual({ session: at(0), view: 'v', notices: {} })
    await open()
    memory.begin(at(2))
    expect(memory.visit('').session).toBe(at(0))
  })

  it('says all of what decisions are asked with', () => {
    memory.change((k) =>
      Object.assign(k, {
        consent: { id: 'c' },
        acknowledged: { terms: { id: 'a' } },
        draw: 'd',
        untold: [{}],
        uncounted: [],
        folded: ['x'],
      }),
    )
    expect(memory.visit('v')).toEqual({
      view: 'v',
      notices: {},
      consent: { id: 'c' },
      acknowledged: { terms: { id: 'a' } },
      draw: 'd',
    })
  })

  it.each(['not JSON', 'null', '7', '{"other":1}'])('begins anew where %s stands', async (text) => {
    localStorage.setItem(name, text)
    await open()
    expect(memory.visit('')).toEqual({ notices: {} })
    memory.act('gale', 'closed', at(0))
    expect(stored()).toMatchObject({ notices: { gale: { closed: at(0) } } })
  })

  it('lasts as long as the page where storage is barred, and says so', async () => {
    vi.stubGlobal('localStorage', undefined)
    Object.defineProperty(window, 'localStorage', {
      configurable: true,
      get() {
        throw new DOMException('barred', 'SecurityError')
      },
    })
    await open()
    expect(memory.visit('')).toEqual({ noStorage: true, notices: {} })
    memory.act('gale', 'closed', at(0))
    memory.begin(at(0))
    expect(memory.visit('')).toMatchObject({ noStorage: true, session: at(0), notices: { gale: { closed: at(0) } } })
    expect(memory.meet('sale', at(0))).toBe(true)
    expect(memory.meet('sale', at(1))).toBe(false)
  })

  it('goes on where storage is full', () => {
    vi.spyOn(Storage.prototype, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError')
    })
    memory.act('gale', 'closed', at(0))
    memory.begin(at(0))
    expect(memory.visit('').noStorage).toBe(true)
    expect(memory.visit('').session).toBe(at(0))
  })

  it('moves to where the hosts of a domain share it', () => {
    memory.change((k) => (k.draw = 'here'))
    const box = {
      getItem: vi.fn((n: string) => (n === name ? '{"notices":{},"draw":"there"}' : null)),
      setItem: vi.fn(),
    }
    const session = { getItem: () => at(-60), setItem: vi.fn() }
    memory.move([box, session])
    expect(memory.visit('')).toEqual({ session: at(-60), notices: {}, draw: 'there' })
    memory.change((k) => (k.draw = 'new'))
    expect(box.setItem).toHaveBeenCalledWith(name, '{"notices":{},"draw":"new"}')
  })
})

describe('counting visits', () => {
  it('counts pages and seconds, and begins another visit after half an hour', async () => {
    await freshPage('/fares')
    const memory = (await import('./memory')).remembered('sundrey')
    let seconds = 0
    const visits = (await import('./visits')).start(memory, () => seconds)
    expect(visits.fact('number')).toBeUndefined()
    expect(visits.spent()).toBe(0)
    visits.leave()
    visits.see('/fares')
    visits.see('/fares')
    expect(memory.kept.visits).toMatchObject({ number: 1, pages: 1, total: 1, landing: '/fares', before: 0, seen: [] })
    expect(visits.fact('daysSinceLast'), 'there was none').toBeUndefined()
    expect(visits.fact('daysSinceFirst')).toBe(0)
    seconds = 12.4
    visits.leave()
    expect(memory.kept.visits).toMatchObject({ seconds: 12, spent: 12, seen: ['/fares'] })
    visits.see('/ports')
    dispatchEvent(new Event('pagehide'))
    expect(memory.kept.visits).toMatchObject({ seconds: 24, spent: 24, pages: 2, seen: ['/fares', '/ports'] })
    expect(visits.spent()).toBe(24)
    expect(visits.fact('pagesTotal')).toBe(2)

    await settle(30 * 60_000)
    visits.see('/book')
    expect(memory.kept.visits, 'half an hour is not more than half an hour').toMatchObject({ number: 1, pages: 3 })
    await settle(30 * 60_000 + 1)
    visits.see('/fares')
    const last = instant + 30 * 60_000
    expect(memory.kept.visits).toMatchObject({
      number: 2,
      pages: 1,
      total: 4,
      spent: 0,
      seconds: 24,
      landing: '/fares',
      before: last,
      first: instant,
    })
    await settle(86_400_000)
    visits.see('/ports')
    expect([visits.fact('daysSinceFirst'), visits.fact('daysSinceLast'), visits.fact('number')]).toEqual([1, 1, 3])
  })

  it('keeps the last hundred paths, each once', async () => {
    await freshPage()
    const memory = (await import('./memory')).remembered('sundrey')
    const visits = (await import('./visits')).start(memory, () => 0)
    for (let i = 0; i < 102; i++) {
      visits.see(`/p${i}`)
      visits.leave()
    }
    visits.see('/p101')
    visits.leave()
    const { seen } = memory.kept.visits!
    expect([seen.length, seen[0], seen[99]]).toEqual([100, '/p2', '/p101'])
  })
})
