import { beforeEach, describe, expect, it, vi } from 'vitest'
import { card, freshPage, instant, settle } from './testing/program'
import type { Bar, Count } from './shapes'

const place = vi.hoisted(() => ({ parts: {} as { ways?: { leads(b: Bar): boolean } }, rootOf: vi.fn() }))
vi.mock('./place', () => place)

const second = 1000
const count = (more: Partial<Count> = {}): Count =>
  ({
    kind: 'to',
    then: 'disappear',
    lang: 'en',
    units: [1],
    full: [{ one: '{0} second', other: '{0} seconds' }],
    ...more,
  }) as Count

describe('countdowns', () => {
  let countdowns: typeof import('./countdowns')
  let bars: Bar[] = []
  const page = {
    memory: { meet: vi.fn(() => false) },
    showing: () => bars,
    quiet: vi.fn((): unknown => ''),
    drop: vi.fn((b: Bar) => (bars = bars.filter((x) => x !== b))),
    ask: vi.fn(),
  }
  const tick = () => countdowns.tick(page as never)
  const roots: Record<string, ShadowRoot> = {}
  const says = (id = 'sale') => roots[id]!.querySelector('b')!.textContent
  const show = (...list: Bar[]) => {
    bars = list
    for (const b of list) {
      const host = document.createElement('div')
      roots[b.id] = host.attachShadow({ mode: 'open' })
      roots[b.id]!.innerHTML =
        '<p class="till"><span class="count"><span></span><b></b><i></i></span></p><p class="after">over</p>'
    }
  }
  beforeEach(async () => {
    await freshPage()
    for (const f of [page.memory.meet, page.quiet, page.drop, page.ask]) f.mockClear()
    page.quiet.mockReturnValue('')
    page.memory.meet.mockReturnValue(false)
    place.parts = {}
    place.rootOf.mockImplementation((id: string) => roots[id])
    countdowns = await import('./countdowns')
    ;(await import('./clock')).noteAsking()
  })

  it('say each second what is left, by the server’s clock', async () => {
    ;(await import('./clock')).setClock(instant, instant + 500)
    show(card('sale', { count: count() }))
    countdowns.setEnds({ sale: instant + 10 * second })
    tick()
    expect(says(), 'what is left is rounded up').toBe('10')
    await settle(501)
    expect(says(), 'at the turn of its own second').toBe('9')
    await settle(1000)
    expect(says()).toBe('8')
    expect(page.ask).not.toHaveBeenCalled()
  })

  it('say what is meant for before and for after', async () => {
    show(card('sale', { count: count({ then: 'say' }) }))
    countdowns.setEnds({ sale: instant + 2 * second })
    tick()
    const [till, after] = roots.sale!.querySelectorAll('p')
    expect([till!.hidden, after!.hidden]).toEqual([false, true])
    await settle(1999)
    expect([till!.hidden, after!.hidden]).toEqual([false, true])
    await settle(3)
    expect([till!.hidden, after!.hidden]).toEqual([true, false])
    expect(page.drop).not.toHaveBeenCalled()
    expect(page.ask).not.toHaveBeenCalled()
  })

  it.each(['disappear', 'hand-over'] as const)('%s at the end: the place is free (rule C4)', async (then) => {
    const sale = card('sale', { count: count({ then }) })
    show(sale)
    countdowns.setEnds({ sale: instant + second })
    tick()
    await settle(1001)
    expect(page.drop.mock.calls).toEqual([[sale]])
    expect(page.ask).toHaveBeenCalledTimes(1)
  })

  it('do not bring back what has left, by an answer from a moment before', async () => {
    const sale = card('sale', { count: count() })
    show(sale)
    countdowns.setEnds({ sale: instant + second })
    tick()
    await settle(1001)
    bars = [sale]
    countdowns.setEnds({ sale: instant + second })
    tick()
    expect(page.drop).toHaveBeenCalledTimes(2)
    expect(bars).toEqual([])
    expect(page.ask, 'it is asked again when the answer runs out').toHaveBeenCalledTimes(1)
  })

  it('stay at the end where that was chosen', async () => {
    show(card('sale', { count: count({ then: 'stay' }) }))
    countdowns.setEnds({ sale: instant + second })
    tick()
    await settle(5000)
    expect(page.drop).not.toHaveBeenCalled()
    expect(page.ask).not.toHaveBeenCalled()
    expect(says()).toBe('0')
  })

  it('of many moments ask for the next, and again while it is not known', async () => {
    show(card('sale', { count: count({ kind: 'repeating' }) }))
    countdowns.setEnds({ sale: instant + second })
    tick()
    await settle(1001)
    expect(page.ask).toHaveBeenCalledTimes(1)
    countdowns.setEnds({ sale: instant + second }) // it is not there yet by the server's clock
    await settle(1000)
    expect(page.ask).toHaveBeenCalledTimes(2)
    countdowns.setEnds({ sale: instant + 5 * second })
    await settle(2500)
    expect(page.ask).toHaveBeenCalledTimes(2)
    await settle(1000)
    expect(page.ask, 'the next').toHaveBeenCalledTimes(3)
    await settle(60_000)
    expect(page.ask, 'that was the last: it is asked for no longer').toHaveBeenCalledTimes(6)
    expect(page.drop).not.toHaveBeenCalled()
  })

  it('of many moments that were over from the start ask once', async () => {
    show(card('sale', { count: count({ kind: 'repeating' }) }))
    countdowns.setEnds({ sale: instant - second })
    tick()
    await settle(60_000)
    expect(page.ask).toHaveBeenCalledTimes(1)
  })

  it('begin anew by themselves where that was chosen', async () => {
    show(card('sale', { count: count({ kind: 'visitor', then: 'again', period: 3 * second }) }))
    countdowns.setEnds({ sale: instant + second })
    tick()
    await settle(1001)
    expect(says()).toBe('3')
    await settle(3000)
    expect(says()).toBe('3')
    expect(page.ask).not.toHaveBeenCalled()
  })

  it('of a visitor’s own begin when it is first met', async () => {
    show(card('sale', { count: count({ kind: 'visitor', period: 4 * second }) }))
    countdowns.setEnds(undefined)
    page.memory.meet.mockReturnValueOnce(true)
    tick()
    expect(page.memory.meet).toHaveBeenCalledWith('sale', '2026-12-04T12:00:00.000Z')
    expect(says()).toBe('4')
    await settle(1000)
    expect(says(), 'and not again each second').toBe('3')
  })

  it('since a moment count on, and nothing follows', async () => {
    show(card('sale', { count: count({ kind: 'since' }) }))
    countdowns.setEnds({ sale: instant - 5 * second })
    tick()
    expect(says()).toBe('5')
    await settle(1002)
    expect(says()).toBe('6')
    expect(page.drop).not.toHaveBeenCalled()
  })

  it('lead elsewhere, if they ran out under the visitor’s eyes', async () => {
    const leads = vi.fn(() => true)
    place.parts.ways = { leads }
    show(card('sale', { count: count() }))
    countdowns.setEnds({ sale: instant + second })
    tick()
    await settle(1001)
    expect(leads).toHaveBeenCalledTimes(1)
    expect(page.drop, 'the page is left').not.toHaveBeenCalled()

    countdowns.setEnds({ sale: instant + second - 5 })
    countdowns.restartCountdowns()
    tick()
    expect(leads, 'on this page view it was over from the start').toHaveBeenCalledTimes(1)
    expect(page.drop).toHaveBeenCalledTimes(1)
  })

  it('in a preview run, and do nothing', async () => {
    page.quiet.mockReturnValue('token')
    show(card('sale', { count: count() }), card('own', { count: count({ kind: 'visitor', period: second }) }))
    countdowns.setEnds({ sale: instant + second, own: instant + second })
    tick()
    await settle(2000)
    expect(says()).toBe('0')
    expect(page.memory.meet).not.toHaveBeenCalled()
    expect(page.drop).not.toHaveBeenCalled()
    expect(page.ask).not.toHaveBeenCalled()
  })

  it('beat only while one is on the page, and in one rhythm', async () => {
    show(card('plain'), card('away', { count: count() }))
    delete roots.away
    tick()
    expect(vi.getTimerCount()).toBe(0)
    show(card('sale', { count: count() }))
    countdowns.setEnds({ sale: instant + 10 * second })
    tick()
    tick()
    expect(vi.getTimerCount()).toBe(1)
    await settle()
  })

  it('ask again where a clock was set', async () => {
    show(card('sale', { count: count() }))
    countdowns.setEnds({ sale: instant + 3600 * second })
    tick()
    await settle(1000)
    expect(page.ask).not.toHaveBeenCalled()
    vi.setSystemTime(instant + 600_000)
    await settle(1000)
    expect(page.ask).toHaveBeenCalled()
  })
})
