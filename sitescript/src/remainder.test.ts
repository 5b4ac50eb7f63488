import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Node, Watch } from './remainder'
import { freshPage, instant, settle } from './testing/program'

const leaf = (fact: string, is: string, value?: unknown) => ({ fact, is, value }) as Node

describe('a remainder (rule A5)', () => {
  let remainder: typeof import('./remainder')
  beforeEach(async () => {
    await freshPage()
    remainder = await import('./remainder')
  })

  it.each([
    ['eq', 30, false, true, false],
    ['ne', 30, true, false, true],
    ['gte', 30, false, true, true],
    ['gt', 30, false, false, true],
    ['lte', 30, true, true, false],
    ['lt', 30, true, false, false],
    ['between', [30, 31], false, true, true],
    ['between', [30, 30], false, true, false],
    ['set', undefined, true, true, true],
    ['unheard-of', 30, false, false, false],
  ])('%s %j holds below, at and above: %s, %s, %s', (is, value, ...expected) => {
    const at = [29, 30, 31].map((n) => remainder.holds(leaf('view.scroll', is, value), { 'view.scroll': n }))
    expect(at).toEqual(expected)
  })
  it('of numbers is at its least while nothing is known', () => {
    expect(remainder.holds(leaf('view.scroll', 'lte', 0), {})).toBe(true)
    expect(remainder.holds(leaf('view.scroll', 'gte', 1), {})).toBe(false)
  })
  it.each([
    ['has', '#fares', true, false],
    ['has', ['#ports', '#fares'], true, false],
    ['has-none', '#fares', false, true],
    ['has-none', '#ports', true, true],
    ['unset', undefined, false, false],
    ['set', undefined, true, true],
  ])('of clicks %s %j holds after one on #fares: %s, before: %s', (is, value, after, before) => {
    expect(remainder.holds(leaf('view.clicked', is, value), { 'view.clicked': ['#fares'] })).toBe(after)
    expect(remainder.holds(leaf('view.clicked', is, value), {})).toBe(before)
  })
  it('of groups is all, any or none of them', () => {
    const [yes, no] = [leaf('view.scroll', 'gte', 0), leaf('view.scroll', 'gte', 1)]
    const holds = (n: object) => remainder.holds(n as Node, {})
    expect([holds({ all: [yes, no] }), holds({ all: [yes, yes] }), holds({ all: [] })]).toEqual([false, true, true])
    expect([holds({ any: [no, yes] }), holds({ any: [no] }), holds({ any: [] })]).toEqual([true, false, false])
    expect([holds({ none: [no] }), holds({ none: [no, yes] }), holds({ none: [{ all: [no] }] })]).toEqual([
      true,
      false,
      true,
    ])
  })
  it('has its leaves visited, however deep', () => {
    const seen: unknown[] = []
    remainder.leaves({ all: [{ any: [leaf('a', 'set')] }, { none: [leaf('b', 'set')] }] } as Node, (l) =>
      seen.push(l.fact),
    )
    expect(seen).toEqual(['a', 'b'])
  })
})

describe('watching a page view', () => {
  let watch: Watch
  const changed = vi.fn()
  let began = instant
  const holds = (fact: string, is: string, value?: unknown) => watch.holds(leaf(fact, is, value))
  const size = (of: { scrollHeight: number; clientHeight: number }) => {
    for (const [name, px] of Object.entries(of))
      Object.defineProperty(document.documentElement, name, { configurable: true, value: px })
  }
  const scroll = (y: number) => {
    vi.stubGlobal('scrollY', y)
    dispatchEvent(new Event('scroll'))
  }
  beforeEach(async () => {
    await freshPage()
    began = instant
    changed.mockClear()
    document.elementsFromPoint = () => []
    watch = (await import('./remainder')).watching(
      () => began,
      () => 100,
      changed,
    )
  })

  it('counts seconds on the page and on the site, and none while nobody looks', async () => {
    watch.add(leaf('view.seconds', 'gte', 2))
    watch.add(leaf('site.seconds', 'gte', 102))
    expect(holds('site.seconds', 'gte', 100)).toBe(true)
    await settle(1999)
    expect(holds('view.seconds', 'gte', 2)).toBe(false)
    vi.spyOn(document, 'hidden', 'get').mockReturnValue(true)
    await settle(5000)
    expect(holds('view.seconds', 'gte', 2)).toBe(false)
    vi.spyOn(document, 'hidden', 'get').mockReturnValue(false)
    await settle(500)
    expect(holds('view.seconds', 'gte', 7)).toBe(true)
    expect(holds('site.seconds', 'gte', 107)).toBe(true)
    expect(changed).toHaveBeenCalled()

    began = Date.now()
    watch.restart()
    expect(holds('view.seconds', 'gte', 1)).toBe(false)
    await settle(1001)
    expect(holds('view.seconds', 'gte', 1)).toBe(true)
    expect(holds('view.seconds', 'gte', 2)).toBe(false)
  })

  it('measures scrolling once the page stands, and keeps the furthest', async () => {
    size({ scrollHeight: 1000, clientHeight: 500 })
    vi.stubGlobal('scrollY', 100)
    watch.add(leaf('view.scroll', 'gte', 20))
    watch.add(leaf('view.scroll', 'gte', 40))
    expect(holds('view.scroll', 'gt', 0), 'seen once it could still grow').toBe(false)
    await settle(500)
    expect(holds('view.scroll', 'eq', 20)).toBe(true)
    scroll(200)
    expect(holds('view.scroll', 'eq', 40)).toBe(true)
    const calls = changed.mock.calls.length
    scroll(50)
    expect(holds('view.scroll', 'eq', 40)).toBe(true)
    expect(changed.mock.calls.filter((_, i) => i >= calls)).toHaveLength(0)
    size({ scrollHeight: 1500, clientHeight: 500 })
    vi.stubGlobal('scrollY', 500)
    dispatchEvent(new Event('resize'))
    expect(holds('view.scroll', 'eq', 50)).toBe(true)
    scroll(9999)
    expect(holds('view.scroll', 'eq', 100), 'and no more than all of it').toBe(true)
    began = Date.now()
    watch.restart()
    scroll(500)
    expect(holds('view.scroll', 'gt', 0), 'another view is measured once it stands').toBe(false)
    await settle(1000)
    expect(holds('view.scroll', 'eq', 50)).toBe(true)
  })

  it('waits for what an app draws late, for so long; a page that does not scroll has been seen whole', async () => {
    size({ scrollHeight: 500, clientHeight: 500 })
    vi.stubGlobal('scrollY', 0)
    watch.add(leaf('view.scroll', 'gte', 30))
    await settle(2500)
    expect(holds('view.scroll', 'gte', 30)).toBe(false)
    await settle(500)
    expect(holds('view.scroll', 'eq', 100)).toBe(true)
  })

  it('does not measure while the page is loading', async () => {
    size({ scrollHeight: 1000, clientHeight: 500 })
    const state = vi.spyOn(document, 'readyState', 'get').mockReturnValue('interactive')
    vi.stubGlobal('scrollY', 400)
    watch.add(leaf('view.scroll', 'gte', 30))
    await settle(10_000)
    expect(holds('view.scroll', 'gt', 0)).toBe(false)
    state.mockReturnValue('complete')
    await settle(500)
    expect(holds('view.scroll', 'eq', 80)).toBe(true)
  })

  it('measures the part that scrolls where the page does not', async () => {
    size({ scrollHeight: 500, clientHeight: 500 })
    vi.stubGlobal('innerHeight', 500)
    const part = (css: string, height: number, inside: number, top = 0) => {
      const e = document.createElement('main')
      e.style.cssText = css
      document.body.append(e)
      for (const [name, px] of Object.entries({ scrollHeight: inside, clientHeight: height, scrollTop: top }))
        Object.defineProperty(e, name, { configurable: true, value: px })
      return e
    }
    const all = [
      part('overflow-y:hidden', 400, 900, 9),
      part('overflow-y:auto', 250, 900, 9),
      part('overflow-y:auto', 251, 252, 9),
      part('overflow-y:scroll', 251, 451, 100),
      part('overflow-y:auto', 400, 900, 9),
    ]
    document.elementsFromPoint = (x, y) => (x === innerWidth / 2 && y === 250 ? all : [])
    watch.add(leaf('view.scroll', 'gte', 30))
    await settle(3000)
    expect(holds('view.scroll', 'eq', 50)).toBe(true)
  })

  it('notices the way out: the mouse leaves at the top, or the tab is left', () => {
    watch.add(leaf('view.leaving', 'eq', 1))
    const out = (y: number, to: EventTarget | null = null) =>
      document.dispatchEvent(new MouseEvent('mouseout', { clientY: y, relatedTarget: to }))
    out(5)
    out(-1, document.body)
    expect(holds('view.leaving', 'eq', 1)).toBe(false)
    out(0)
    expect(holds('view.leaving', 'eq', 1)).toBe(true)
    watch.restart()
    document.dispatchEvent(new Event('visibilitychange'))
    expect(holds('view.leaving', 'eq', 1)).toBe(false)
    vi.spyOn(document, 'hidden', 'get').mockReturnValue(true)
    document.dispatchEvent(new Event('visibilitychange'))
    expect(holds('view.leaving', 'eq', 1)).toBe(true)
  })

  it('notices clicks on, or in, what is asked about', () => {
    document.body.innerHTML = '<a id="fares"><b>Fares</b></a><i>else</i>'
    watch.add(leaf('view.clicked', 'has', ['#fares', ')']))
    const click = (s: string) => document.querySelector(s)!.dispatchEvent(new MouseEvent('click', { bubbles: true }))
    click('i')
    expect(holds('view.clicked', 'has', '#fares')).toBe(false)
    click('b')
    click('b')
    expect(holds('view.clicked', 'has', '#fares')).toBe(true)
    expect(holds('view.clicked', 'has', ')')).toBe(false)
    expect(changed).toHaveBeenCalledTimes(3)
  })

  it('counts seconds in which nothing is done', async () => {
    watch.add(leaf('view.idle', 'gte', 3))
    watch.add(leaf('view.idle', 'gte', 3))
    await settle(2000)
    for (const type of ['pointermove', 'pointerdown', 'keydown', 'scroll', 'touchstart']) {
      dispatchEvent(new Event(type))
      await settle(2500)
      expect(holds('view.idle', 'gte', 3), type).toBe(false)
    }
    await settle(500)
    expect(holds('view.idle', 'gte', 3)).toBe(true)
  })
})
